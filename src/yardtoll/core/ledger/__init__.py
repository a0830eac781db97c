"""Where the energy went: the loss split, idle draw, and ledgers that add up."""
