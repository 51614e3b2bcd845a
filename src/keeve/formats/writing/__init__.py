"""What goes out: tickets, tables, mixes and calendars as files, and paper.

It knows no file that came in.
"""
