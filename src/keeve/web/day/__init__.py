"""The day: loads of several jobs on one line, held against the weather."""
