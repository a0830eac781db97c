"""Results as JSON and as short tables for a shell, one module a command."""
