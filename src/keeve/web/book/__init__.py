"""The mix book: every mix that ships and the crew's own, to find, set side by side, copy and change."""
