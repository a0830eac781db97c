"""What a station costs for what it gives."""
