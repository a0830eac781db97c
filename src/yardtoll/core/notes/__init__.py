"""Notes of a test in plain text: a time, then values with units and words, line by line."""
