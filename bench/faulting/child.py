"""One case in a child process: forked from a process that has imported everything, limited in time, memory and sockets.

A child that opens a socket is ended by the kernel (seccomp, Linux 3.5; the numbers of system calls are those of the
machine), so that a decoder's own network code is seen as well as Python's.
"""

from __future__ import annotations

import ctypes
import faulthandler
import os
import platform
import resource
import select
import signal
import struct
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path

import attrs

TIME_S = 30.0
MOST_RSS_MB = 1024
_SOCKET = {"x86_64": 41, "aarch64": 198}
_PR_SET_NO_NEW_PRIVS, _PR_SET_SECCOMP, _FILTER = 38, 22, 2
_ALLOW, _TRAP = 0x7FFF0000, 0x00030000


@attrs.frozen
class Ending:
    """How a child ended: what it said, or why it said nothing; s that it took, MB that it took beside its runner's."""

    said: str
    fault: str
    seconds: float
    rss_mb: float


def forbid_sockets() -> bool:
    """From now on this process is ended by SIGSYS when it opens a socket; whether that could be arranged."""
    number = _SOCKET.get(platform.machine())
    libc = ctypes.CDLL(None, use_errno=True)
    if number is None or libc.prctl(_PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0) != 0:
        return False
    # BPF: load the call's number; socket ends the process, all else goes on (seccomp(2))
    code = [(0x20, 0, 0, 0), (0x15, 0, 1, number), (0x06, 0, 0, _TRAP), (0x06, 0, 0, _ALLOW)]
    program = ctypes.create_string_buffer(b"".join(struct.pack("<HBBI", *step) for step in code))
    head = struct.pack("<HxxxxxxQ", len(code), ctypes.addressof(program))
    return bool(libc.prctl(_PR_SET_SECCOMP, _FILTER, ctypes.c_char_p(head), 0, 0) == 0)


def _pages(*, resident: bool) -> int:
    """Bytes that this process holds in memory, or has mapped (proc(5), statm)."""
    return int(Path("/proc/self/statm").read_text("ascii").split()[resident]) * resource.getpagesize()


def run(act: Callable[[], str], *, seconds: float = TIME_S, memory_mb: int = 4096) -> Ending:
    """What `act` returns, done in a child; a traceback, a signal, too much time or memory is a fault."""
    receive, send = os.pipe()
    began = time.monotonic()
    # a fork begins with the pages of whoever runs this
    held = _pages(resident=True) / (1 << 20)
    pid = os.fork()
    if pid == 0:
        os.close(receive)
        _child(act, send, memory_mb)
    os.close(send)
    said, late = b"", False
    while True:
        left = began + seconds - time.monotonic()
        if left <= 0 or not select.select([receive], [], [], left)[0]:
            late = True
            os.kill(pid, signal.SIGKILL)
            break
        block = os.read(receive, 1 << 16)
        if not block:
            break
        said += block
    os.close(receive)
    _, status, used = os.wait4(pid, 0)
    took, rss = time.monotonic() - began, max(0.0, used.ru_maxrss / 1024 - held)
    text = said.decode("utf-8", "replace")
    fault = ""
    if late:
        fault = f"no end after {seconds:.0f} s"
    elif os.WIFSIGNALED(status):
        number = os.WTERMSIG(status)
        fault = "opened a socket" if number == signal.SIGSYS else f"ended by signal {number}"
    elif os.waitstatus_to_exitcode(status):
        fault = text.strip().splitlines()[-1] if text.strip() else "ended without a word"
    elif rss > MOST_RSS_MB:
        fault = f"took {rss:.0f} MB"
    return Ending(text, fault, took, rss)


def run_on(path: Path, data: bytes, act: Callable[[], str]) -> Ending:
    """As `run`, with a file of `data` at `path` for as long as it takes."""
    path.write_bytes(data)
    try:
        return run(act)
    finally:
        path.unlink()


def _child(act: Callable[[], str], send: int, memory_mb: int) -> None:
    """In the child: never returns."""
    code = 0
    # whoever runs this may print stacks on signals: here they are the answer
    faulthandler.disable()
    try:
        # beside what whoever runs this has mapped already
        most = _pages(resident=False) + (memory_mb << 20)
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
        os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
        forbid_sockets()
        said = act().encode()
    except BaseException:
        code, said = 1, traceback.format_exc().encode()
    while said:
        said = said[os.write(send, said) :]
    sys.stdout.flush()
    os._exit(code)
