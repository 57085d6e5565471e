"""Adapters to networks: one file each, turning a network's ways into the values of core.ports."""
