"""What workers tell of a job, step by step."""

from __future__ import annotations

from typing import Any

import attrs

DECODING, LISTENING = "decoding", "listening"
BEGUN, ELSEWHERE = "begun", "elsewhere"
ENDS = {"done", "failed", "cancelled", ELSEWHERE}


@attrs.frozen
class Message:
    """One step in a job's story; see `worker`."""

    job: int
    kind: str
    payload: Any


def share_done(stage: str, part: float) -> float:
    """How much of a hearing is done, 0 to 1, where `part` of a stage of it is; decoding takes three fifths."""
    return {DECODING: 0.6 * part, LISTENING: 0.6 + 0.4 * part}.get(stage, 0.0)
