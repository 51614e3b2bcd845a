"""Station 5: what happened, and what to change."""
