"""Sun: may it be connected, what should it give, what did it give and what held it back."""
