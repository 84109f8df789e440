"""The record that says what is proven: facts, what is not proven, and three papers from them."""

from .closing import CLOSING, ClosingCheck
from .facts import (
    ChanceFact,
    ClosingFact,
    DecisionFact,
    GateFact,
    JobFacts,
    PullFact,
    RevisionFact,
    StartFact,
    TableFact,
)
from .papers import PAPERS, Figure, Grid, Paper, PaperKey, Section, paper
from .reopening import (
    PARTS,
    STANDS,
    Fallen,
    Part,
    Reopened,
    Reopening,
    Stand,
    refuse_parts,
    what_stands,
)
from .unproven import Unproven, unproven

__all__ = [
    "PARTS", "STANDS", "Fallen", "Part", "Reopened", "Reopening", "Stand", "refuse_parts", "what_stands",
    "CLOSING", "PAPERS", "ChanceFact", "ClosingCheck", "ClosingFact", "DecisionFact", "Figure", "GateFact", "Grid", "JobFacts",
    "Paper", "PaperKey", "PullFact", "RevisionFact", "Section", "StartFact", "TableFact", "Unproven", "paper", "unproven",
]  # fmt: skip
