"""How an answer is written: templates and what they may call, pages written before, faults as pages, paper.

It knows no route; drawings are lent to it.
"""
