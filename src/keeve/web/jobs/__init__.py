"""The list of jobs, and the reader's own settings."""
