"""The error of texts that are no quantity."""


class QuantityError(ValueError):
    """A text that is not a quantity of the wanted kind; the message says what would be."""
