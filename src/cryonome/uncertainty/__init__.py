"""How sure a number is: what test methods state of themselves, samples of uncertain inputs, and what they make of
answers. Knows arrays alone."""
