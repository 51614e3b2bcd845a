"""The trade: pure computation, with no web, no database, no files and no clock in it."""
