"""What the crew owns: its vessels."""
