"""Claims: what the maker promises, from which source, and where sources disagree."""
