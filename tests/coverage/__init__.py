"""How often the truth is within the uncertainty that the program states."""
