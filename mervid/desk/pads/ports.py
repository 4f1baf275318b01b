"""Devices that send MIDI: which there are, also while they come and go, what they say, and what they are told.

The system's own devices come through python-rtmidi, whose thread calls as soon as a message is there; the instant is
noted in that thread, so that a tap's time is the message's, however busy the window is. Others, such as the pad board,
plug into the same place with the same bytes.
"""

from __future__ import annotations

import contextlib
import logging
import os
import time
from collections.abc import Callable
from typing import Any, Protocol

import mido
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

log = logging.getLogger(__name__)
LOOK_MS = 1500
"""So often it is looked which devices are there."""
SEQUENCER = "/dev/snd/seq"
NO_SYSTEM = "There is no MIDI system on this computer, so controllers can't be heard; the pad board works all the same."
OWN = "Mervid"


class Device(Protocol):
    """Something that is plugged in."""

    def send(self, data: bytes) -> None: ...
    def close(self) -> object: ...


class Ports(QObject):
    """`heard` with a device's name, the bytes of one message and its instant (`time.perf_counter`, s).

    `changed` when a device came or went.
    """

    heard = pyqtSignal(str, bytes, float)
    changed = pyqtSignal()
    _came = pyqtSignal(str, bytes, float)

    def __init__(self, *, look: bool = True) -> None:
        super().__init__()
        self.devices: dict[str, Device] = {}
        self.problem = ""
        self._system: dict[str, Device] = {}
        self._parsers: dict[str, mido.Parser] = {}
        self._backend: Any = None
        # messages come in threads of their own; they are carried out in the window's
        self._came.connect(self.heard.emit, Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self.look)
        if look:
            QTimer.singleShot(0, self.begin)

    def begin(self) -> None:
        """Look for devices from now on."""
        if not self._open_system():
            return
        self.look()
        self._timer.start()

    def _open_system(self) -> bool:
        # the library says its troubles on the terminal, so the usual one is looked for first
        if not os.path.exists(SEQUENCER):
            self.problem = NO_SYSTEM
            return False
        try:
            import rtmidi

            self._backend = rtmidi
            self._watch = rtmidi.MidiIn(name=OWN)
        except Exception as e:
            # the binding raises errors of its own kinds, one for each system
            self.problem = f"{NO_SYSTEM} ({e})"
            log.warning("MIDI: %s", e)
            return False
        return True

    # what the system has

    def look(self) -> None:
        """Open what is new, let go of what is gone."""
        try:
            there = self._watch.get_ports()
        except Exception as e:
            log.warning("MIDI: %s", e)
            return
        by_name = {plain(n): i for i, n in enumerate(there) if OWN not in n}
        for name in [n for n in self._system if n not in by_name]:
            del self._system[name]
            self.unplug(name)
        for name, at in by_name.items():
            if name not in self._system:
                try:
                    device = SystemDevice(self._backend, at, name, self.receive)
                except Exception as e:
                    log.warning("MIDI: %s can't be opened: %s", name, e)
                    continue
                self._system[name] = device
                self.plug(name, device)

    # anything

    def plug(self, name: str, device: Device) -> None:
        """A device is there."""
        self.devices[name] = device
        self._parsers[name] = mido.Parser()
        self.changed.emit()

    def unplug(self, name: str) -> None:
        """A device is gone."""
        device = self.devices.pop(name, None)
        if device is not None:
            with contextlib.suppress(Exception):
                device.close()
            self.changed.emit()

    def receive(self, name: str, data: bytes) -> None:
        """Bytes of a device, just now, from any thread."""
        now = time.perf_counter()
        parser = self._parsers.get(name)
        if parser is None:
            return
        parser.feed(data)
        for message in parser:
            self._came.emit(name, bytes(message.bytes()), now)

    def send(self, name: str, data: bytes) -> None:
        """Tell a device something; one that can't be told is left alone."""
        device = self.devices.get(name)
        if device is not None:
            try:
                device.send(data)
            except Exception as e:
                log.info("MIDI: %s takes no lights: %s", name, e)

    def close(self) -> None:
        """Let go of all devices."""
        self._timer.stop()
        for name in list(self.devices):
            self.unplug(name)


class SystemDevice:
    """A device of the system: its input, and its output where it has one of the same name."""

    def __init__(self, backend: Any, at: int, name: str, receive: Callable[[str, bytes], None]) -> None:
        self._out: Any = None
        self._in = backend.MidiIn(name=OWN)
        self._in.open_port(at, name=OWN)
        self._in.ignore_types(sysex=True, timing=True, active_sense=True)
        self._in.set_callback(lambda said, _: receive(name, bytes(said[0])))
        out = backend.MidiOut(name=OWN)
        same = [i for i, n in enumerate(out.get_ports()) if plain(n) == name]
        if same:
            out.open_port(same[0], name=OWN)
            self._out = out

    def send(self, data: bytes) -> None:
        """To its output."""
        if self._out is not None:
            self._out.send_message(list(data))

    def close(self) -> None:
        """Close both."""
        self._in.cancel_callback()
        self._in.close_port()
        if self._out is not None:
            self._out.close_port()


def plain(name: str) -> str:
    """A device's name without the numbers that the system gives it anew at every plugging in.

    >>> plain("Little Desk:Little Desk MIDI 1 24:0"), plain("Little Desk")
    ('Little Desk', 'Little Desk')
    """
    head, _, rest = name.rpartition(" ")
    whole = head if head and rest.replace(":", "").isdigit() else name
    client, _, port = whole.partition(":")
    return client if not port or port.startswith(client) else f"{client} {port}"
