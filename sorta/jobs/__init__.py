"""Background entry points, as thin as routes."""
