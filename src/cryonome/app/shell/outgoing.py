"""What leaves the window as a report: the page on which it is chosen and seen."""

from __future__ import annotations

from ..reporting.page import ReportPage
from .incoming import Incoming


class Outgoing(Incoming):
    """The part of the main window that hands a report over."""

    report: ReportPage

    def begin_outgoing(self) -> None:
        """Make the page of the report."""
        self.report = ReportPage(self.store, self.jobs, lambda: self.live.evaluator)
        self.report.left.connect(self._leave_report)
        self.report.said.connect(self.ledger.say)
        self.stack.addWidget(self.report)

    def show_report(self) -> None:
        """Show the report of the project, to be saved or printed."""
        self.stack.setCurrentWidget(self.report)
        self.report.begin()
        self.report.tree.setFocus()

    def _leave_report(self) -> None:
        self.report.stop()
        self.show_desk(self.current)
