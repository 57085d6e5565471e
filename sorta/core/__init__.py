"""The trade, pure: frozen values in, values out. No I/O, no clock, no randomness."""
