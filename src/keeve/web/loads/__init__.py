"""Station 3: how it is dosed with what is at hand."""
