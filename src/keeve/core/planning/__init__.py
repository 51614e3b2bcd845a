"""The one door: a request comes in, a plan goes out.

It knows nothing that is kept, and no page.
"""
