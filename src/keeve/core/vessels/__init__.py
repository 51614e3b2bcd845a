"""What a thing is measured with, mixed in and weighed on.

It knows no mix and no load.
"""
