"""Station 1: what has to be filled."""
