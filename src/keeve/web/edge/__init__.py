"""What comes in and goes out: which requests are let in, how much, how fast, and the settings.

It knows no page and no job; how a refusal is told, whoever builds the app gives it.
"""
