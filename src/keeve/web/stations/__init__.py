"""The five stations of a job: measure, mix, loads, mixer, look back.

Each is one package with its templates. They know nothing of the pages beside them.
"""
