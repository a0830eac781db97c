"""What a discharge comes to, from logs or from readings by eye."""
