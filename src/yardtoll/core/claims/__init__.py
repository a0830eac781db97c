"""What makers promise: the kinds of claims, reading them from text, and where they disagree."""
