"""Station 4: do it, step by step."""
