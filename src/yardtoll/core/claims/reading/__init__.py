"""Reading claims out of a pasted listing or manual: figures, what the words say, claims."""
