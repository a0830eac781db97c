"""Profiles of instruments: the TOML files that come with the program, and the user's own."""
