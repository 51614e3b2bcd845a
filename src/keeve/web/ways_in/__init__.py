"""Other ways in: programs, phones of the network, phones without one, devices, files.

Nothing stands on them but the app.
"""
