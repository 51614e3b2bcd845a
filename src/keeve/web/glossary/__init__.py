"""The words of the trade, explained where they stand."""
