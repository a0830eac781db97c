"""The sheet: one station's review as HTML, PDF, text, charts and strict JSON."""
