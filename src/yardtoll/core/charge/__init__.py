"""What a charge comes to: phases, times to a state of charge, two inputs at once."""
