"""One folder a stop of the rail; each has a plain model and a thin view."""
