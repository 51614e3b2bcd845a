"""What happened: taps in their order, folded to loads and to what is still to make.

It knows tickets, and no plan behind them.
"""
