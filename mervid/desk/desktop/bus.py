"""Values as D-Bus wants them, and Qt's decorators for it; the binding's types leave both out."""

from __future__ import annotations

from typing import Any

from PyQt6 import QtCore
from PyQt6.QtCore import QMetaType, QVariant
from PyQt6.QtDBus import QDBusArgument

_core: Any = QtCore
exported: Any = _core.pyqtProperty
"""Marks a property that is seen on the bus."""
interface: Any = _core.pyqtClassInfo
"""Names a class's interface."""
_kinds: Any = QMetaType.Type


def uint(value: int) -> QDBusArgument:
    """A whole number without a sign."""
    told = QDBusArgument()
    told.add(value, _kinds.UInt.value)
    return told


def texts(values: list[str]) -> QDBusArgument:
    """A list of texts, also an empty one."""
    told = QDBusArgument()
    told.add(values, _kinds.QStringList.value)
    return told


def long(value: int) -> QVariant:
    """A whole number of 64 bits, however small it is."""
    told = QVariant(value)
    told.convert(QMetaType(_kinds.LongLong.value))
    return told
