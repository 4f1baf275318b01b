"""What binds a model of rows to the tracks in sight: the list at the left and the table of Gather follow the same."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QModelIndex

from ..session.shown_list import ShownList


class RowModel(Protocol):
    """A Qt model whose rows are the tracks in sight; `count` is how many of them its views know."""

    count: int

    def beginResetModel(self) -> None: ...
    def endResetModel(self) -> None: ...
    def beginInsertRows(self, parent: QModelIndex, first: int, last: int) -> None: ...
    def endInsertRows(self) -> None: ...
    def tell_rows(self, first: int, last: int) -> None: ...


def follow(model: RowModel, shown: ShownList) -> None:
    """Let a model tell its views whenever other tracks are in sight, some came, or one looks different."""

    def refilled() -> None:
        model.beginResetModel()
        model.count = len(shown)
        model.endResetModel()

    def grown(first: int, count: int) -> None:
        if count:
            model.beginInsertRows(QModelIndex(), first, first + count - 1)
            model.count = first + count
            model.endInsertRows()

    def touched(row: int | None) -> None:
        if model.count:
            model.tell_rows(*((row, row) if row is not None else (0, model.count - 1)))

    model.count = len(shown)
    shown.changed.connect(refilled)
    shown.grown.connect(grown)
    shown.touched.connect(touched)
