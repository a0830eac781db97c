"""The yard file, and everything that reads files into it or writes them out of it."""
