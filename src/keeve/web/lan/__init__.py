"""A phone joins by a code: the yard's own network, an authority of its own, and links to one run."""
