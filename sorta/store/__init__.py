"""All SQL: one module per topic beside its `sql/<topic>.sql`. Called by services only."""
