"""Tips that name keys: where a person chose other keys, the tips say those."""

from __future__ import annotations

import re
from collections.abc import Mapping

from PyQt6.QtWidgets import QWidget

from ..commands.command import Table

_AS_MADE = "tipAsMade"
_KEY = re.compile(r"\((?P<key>[^()\s]+)\)")


def other_keys(usual: Table, own: Mapping[str, str], stage: str) -> dict[str, str]:
    """What became of the keys that are known in a stage: the usual one, and the one instead; "" where there is none."""
    changed = [c for c in usual.commands if c.id in own and c.keys and c.stage in ("", stage)]
    # a stage's own key goes before the one that all know
    return {c.keys: own[c.id] for c in sorted(changed, key=lambda c: c.stage != "")}


def name_keys(root: QWidget, keys: Mapping[str, str]) -> None:
    """Say the new keys in all tips of a widget and of what is in it; `keys` maps usual ones to those instead."""
    for w in (root, *root.findChildren(QWidget)):
        made = w.property(_AS_MADE)
        if made is None:
            if not keys or not w.toolTip():
                continue
            made = w.toolTip()
            w.setProperty(_AS_MADE, made)
        w.setToolTip(_renamed(str(made), keys))


def _renamed(tip: str, keys: Mapping[str, str]) -> str:
    """The tip with other keys.

    >>> _renamed("Half speed (Alt+H)", {"Alt+H": "F12"}), _renamed("Half speed (Alt+H)", {"Alt+H": ""})
    ('Half speed (F12)', 'Half speed')
    """

    def instead(found: re.Match[str]) -> str:
        key = keys.get(found["key"])
        return found[0] if key is None else f"({key})" if key else ""

    return _KEY.sub(instead, tip).strip()
