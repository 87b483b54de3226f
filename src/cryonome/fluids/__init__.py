"""From the parts of a document to fluids ready to compute, and what is told of their states."""
