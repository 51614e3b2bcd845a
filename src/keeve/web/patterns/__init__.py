"""Every pattern of the pages on one page."""
