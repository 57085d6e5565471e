"""Sorta: the desk where a social team sorts, answers and accounts for what people say to it."""
