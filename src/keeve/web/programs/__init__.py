"""Programs that may change something for the crew."""
