"""The run that is going: its samples, what they say of its end, and how it is kept."""
