"""A question asked of many samples of its uncertain inputs: what is uncertain, how it is drawn, and the answers."""
