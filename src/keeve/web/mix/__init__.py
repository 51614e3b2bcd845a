"""Station 2: which mix goes in."""
