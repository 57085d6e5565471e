"""Use cases: open a transaction, call store and core, record the trail, queue work."""
