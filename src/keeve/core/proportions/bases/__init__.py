"""The ways of stating a mix: one module each, found by lying here."""
