"""The live link: an engine's samples as they come, kept second by second, and what is commanded."""
