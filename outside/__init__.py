"""The Outside: stand-in networks, a program of their own. Speaks HTTP only; knows nothing of Sorta."""
