"""Before the first load: what is looked at, the air, and what happened since."""
