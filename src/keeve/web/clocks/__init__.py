"""The strip of clocks that runs on every page."""
