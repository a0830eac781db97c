"""The site's sun: panels as the core reasons about them, wiring, the coming days."""
