"""Words and units at the edge: what the core says, in the reader's language and measures."""
