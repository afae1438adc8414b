"""Quantities to the clipboard, as a table."""

from PySide6.QtCore import QMimeData
from PySide6.QtWidgets import QApplication

from zumbert.analysis.quantities import quantities
from zumbert.analysis.takeoff import takeoff
from zumbert.app.session import Session
from zumbert.exchange.quantitytables import takeoff_table
from zumbert.exchange.quantitytext import as_html, as_text


def copy_takeoff(session: Session) -> str:
    """The takeoff of what is shown: as a table for a word processor, and as text with tabs
    between its cells, which is returned.
    """
    s = session.state
    if s.dug.trenches is None:
        return ""
    net = s.dug.net[1] if s.dug.net is not None and s.dug.net[0] is s.dug.trenches else None
    items = takeoff(s.shown.facts, quantities(s.dug.trenches, net=net))
    table = takeoff_table(s.shown.facts, items)
    text, both = as_text(table), QMimeData()
    both.setText(text)
    both.setHtml(as_html(table))
    QApplication.clipboard().setMimeData(both)
    return text
