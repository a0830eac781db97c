"""Results of a charge: phases, times to a state of charge, two inputs at once."""
