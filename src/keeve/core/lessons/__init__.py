"""What the loads teach: the sand's water, evenness, the crew's own figures.

It knows the log by its run alone.
"""
