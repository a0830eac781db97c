"""One file a schema version."""
