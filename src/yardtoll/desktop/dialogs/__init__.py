"""Questions asked in a window of their own."""
