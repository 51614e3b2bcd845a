"""In what order a mix is made, and how it must look.

It knows which steps there are, not how much goes in.
"""
