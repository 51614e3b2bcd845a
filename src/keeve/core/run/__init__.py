"""What happened: taps in their order, folded to loads and to what is still to make.

It knows tickets, and no plan behind them.
"""

from keeve.core.run.folding import Folding, fold
from keeve.core.run.models import DryPart, LoadState, NextLoad, Proposal, Question, Run

__all__ = ["DryPart", "Folding", "LoadState", "NextLoad", "Proposal", "Question", "Run", "fold"]
