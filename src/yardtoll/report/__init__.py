"""Results for readers: JSON for scripts, tables for a shell, and the published sheet."""
