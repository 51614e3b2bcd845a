"""Who asks, and what they may have: the crew's stores, a job, entries as typed, what stands of the yard.

It knows no template and no route.
"""
