"""Files from outside: read in bounded processes of their own, looked at before anything is taken in.

What is written is told in `writing`; nothing there stands on this.
"""
