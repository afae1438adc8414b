"""A view that stands in the place of both drawings while its stage is in force."""

from PySide6.QtWidgets import QWidget


class Covering(QWidget):
    """The view: it has a hint of its own, a main part, and takes *Fit* and *Delete*."""

    hint = ""

    @property
    def main(self) -> QWidget:
        """The part that has the keyboard, and that a picture is made of."""
        return self

    def fit(self) -> None:
        """Shows all of it."""

    def delete(self) -> None:
        """Deletes what is shown or selected in it."""
