"""The reader's language: every text on its way to a screen, a page or a terminal passes here."""

from .phrasebook import Phrasebook, Verbatim, begin, choose, marked, of_file, retold, said, spoken

__all__ = ["Phrasebook", "Verbatim", "begin", "choose", "marked", "of_file", "retold", "said", "spoken"]
