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
    GoodStart,
    Part,
    Reopened,
    Reopening,
    Stand,
    refuse_parts,
    what_stands,
)
from .unproven import Unproven, unproven

__all__ = [
    "CLOSING",
    "PAPERS",
    "PARTS",
    "STANDS",
    "ChanceFact",
    "ClosingCheck",
    "ClosingFact",
    "DecisionFact",
    "Fallen",
    "Figure",
    "GateFact",
    "GoodStart",
    "Grid",
    "JobFacts",
    "Paper",
    "PaperKey",
    "Part",
    "PullFact",
    "Reopened",
    "Reopening",
    "RevisionFact",
    "Section",
    "Stand",
    "StartFact",
    "TableFact",
    "Unproven",
    "paper",
    "refuse_parts",
    "unproven",
    "what_stands",
]
