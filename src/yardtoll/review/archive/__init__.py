"""Many stations in one yard: what is known of each, kept ready, and searched."""
