"""What a station's runs say together: cycles, repeats, inputs at once, and what is fitted."""
