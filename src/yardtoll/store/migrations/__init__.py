"""Schema changes, one file a version under versions/, run by Alembic."""
