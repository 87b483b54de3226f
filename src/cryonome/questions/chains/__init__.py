"""Chains of steps as questions: how they stand in a document, how they are read, computed and answered."""
