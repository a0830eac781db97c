"""Review: a yard's results, claims judged, the sheet's contents. No window."""
