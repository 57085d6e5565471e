"""The web API. Thin: parse, call a service, map."""
