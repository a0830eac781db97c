"""How often the truth lies within the uncertainty that the program states."""
