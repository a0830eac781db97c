"""Review: what a yard's runs come to; results, claims judged, the sheet's contents. No window."""
