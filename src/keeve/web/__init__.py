"""The pages: five stations, and the doors for other programs."""
