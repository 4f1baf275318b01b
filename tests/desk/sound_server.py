"""A real sound server with a sink that goes nowhere, and a recorder of what it plays."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import threading
from pathlib import Path

import numpy as np

from tests.conftest import RATE, wait_for


def missing() -> str:
    """Why there can be no sound server here; empty where there can."""
    for name in ("pulseaudio", "parec", "pactl"):
        if shutil.which(name) is None:
            return f"{name} is not installed (./test installs it where it may)"
    return ""


class SoundServer:
    """Runs until `stop`; `address` is what PULSE_SERVER must say."""

    def __init__(self, folder: Path) -> None:
        folder.chmod(0o700)
        socket = folder / "native"
        self.address = f"unix:{socket}"
        self._env = os.environ | {"XDG_RUNTIME_DIR": str(folder), "HOME": str(folder), "PULSE_SERVER": self.address}
        self._process = subprocess.Popen(
            [
                "pulseaudio", "--daemonize=no", "--exit-idle-time=-1", "--disable-shm=yes", "-n",
                "-L", f"module-native-protocol-unix socket={socket} auth-anonymous=1",
                "-L", f"module-null-sink sink_name=nowhere rate={RATE}",
            ],
            env=self._env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self._recorder: subprocess.Popen[bytes] | None = None
        self._heard: list[bytes] = []
        asked = ["pactl", "info"]
        wait_for(lambda: not subprocess.run(asked, env=self._env, capture_output=True, check=False).returncode)

    def record(self) -> None:
        """Begin to record what the sink is given."""
        self._recorder = subprocess.Popen(
            ["parec", "-d", "nowhere.monitor", "--format=float32le", f"--rate={RATE}", "--channels=2"],
            env=self._env, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self._recorder is not None
        assert self._recorder.stdout is not None
        while block := os.read(self._recorder.stdout.fileno(), 16384):
            self._heard.append(block)

    @property
    def heard(self) -> np.ndarray:
        """What was recorded so far, (frames, 2)."""
        data = b"".join(self._heard)
        return np.frombuffer(data[: len(data) // 8 * 8], np.float32).reshape(-1, 2)

    def plug_in_a_cable(self) -> None:
        """From the sink to an input, which the server takes for a microphone."""
        for words in (
            ["load-module", "module-remap-source", "master=nowhere.monitor", "source_name=cable"],
            ["set-default-source", "cable"],
        ):
            subprocess.run(["pactl", *words], env=self._env, check=True, capture_output=True)

    def unplug(self) -> None:
        """Take the sink away, as when a plug is pulled."""
        subprocess.run(["pactl", "unload-module", "module-null-sink"], env=self._env, check=True, capture_output=True)

    def kill(self) -> None:
        """End it as a crash would."""
        self._process.send_signal(signal.SIGKILL)

    def freeze(self) -> None:
        """Let it stop answering."""
        self._process.send_signal(signal.SIGSTOP)

    def stop(self) -> None:
        """End server and recorder."""
        for p in (self._recorder, self._process):
            if p is not None:
                p.send_signal(signal.SIGKILL)
                p.wait()
