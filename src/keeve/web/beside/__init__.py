"""The pages beside the stations: jobs, before the mix, the day, the book, the yard, paper, words, clocks, patterns.

Each is one package with its templates.
"""
