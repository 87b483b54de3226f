"""The desks: one page a card of the trail."""
