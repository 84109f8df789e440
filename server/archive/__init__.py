"""A whole job as one archive: out of one installation, and into another."""
