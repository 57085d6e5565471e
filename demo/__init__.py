"""The demo's world: data, a seeded history, and the command that starts everything."""
