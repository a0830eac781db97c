"""What a station's runs, and what was noted of it, say of each kind of claim."""
