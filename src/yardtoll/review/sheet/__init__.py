"""One station's sheet, put together from the yard."""
