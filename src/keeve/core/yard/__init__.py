"""What is there: checks of the morning, what happened to the heaps, what has to be bought.

It knows jobs only by what they take.
"""
