"""Sheet: the report as it will be published, with the reviewer's own words and scorecard."""
