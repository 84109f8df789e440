"""The guide: order of work, glossary and how it computes, from the documents that ship with it."""
