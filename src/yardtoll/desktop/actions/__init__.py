"""What the window can do: each action asks what it needs to know, then does it."""
