"""Results of a discharge, from logs or from readings by eye."""
