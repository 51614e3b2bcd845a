"""What is kept: crews, jobs, shapes, mixes, plans, batches and their events, in PostgreSQL."""
