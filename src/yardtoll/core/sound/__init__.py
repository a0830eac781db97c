"""Sound: levels by distance and without background, A-weighting, hum."""
