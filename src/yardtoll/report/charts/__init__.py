"""Charts, each described once: painted by the window, and as SVG."""
