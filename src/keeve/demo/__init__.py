"""The invented yard and its jobs."""
