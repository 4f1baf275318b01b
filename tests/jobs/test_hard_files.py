"""What a recording can do to the process that decodes it: hang, end it, ask for all memory, change under its hands."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from mervid.core.errors import Changed
from mervid.jobs import lifeline, pool, settled, sound_loader
from mervid.jobs.identifier import Identifier
from mervid.jobs.messages import ENDS, Message
from mervid.jobs.pool import Pool
from mervid.jobs.sound_loader import Begun, SoundLoader
from tests.conftest import RATE, band, wait_for
from tests.jobs.test_pool import gone, polled


def ended(said: list[Message]) -> dict[int, tuple[str, object]]:
    return {m.job: (m.kind, m.payload) for m in said if m.kind in ENDS}


def begun(said: list[Message]) -> set[int]:
    return {m.job for m in said if m.kind == "progress"}


def test_a_job_that_hangs_is_ended_and_said_and_the_next_one_runs(
    tmp_path: Path, wav, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pool, "STALLED_S", 1.0)
    monkeypatch.setattr(pool, "SILENT_S", 1.0)
    jobs = Pool(tmp_path, workers=1)
    jobs.submit(1, wav("a.wav", band(120.0)))
    polled(jobs, lambda said: 1 in begun(said))
    stuck = jobs.processes[0]
    os.kill(stuck, signal.SIGSTOP)
    said = polled(jobs, lambda said: 1 in ended(said))
    kind, words = ended(said)[1]
    assert kind == "failed"
    assert "Nothing came out of this recording" in str(words)
    monkeypatch.setattr(pool, "STALLED_S", 30.0)
    monkeypatch.setattr(pool, "SILENT_S", 30.0)
    jobs.submit(2, wav("b.wav", band(3.0)), listen=False)
    said = polled(jobs, lambda said: 2 in ended(said))
    assert ended(said)[2][0] == "done"
    assert gone(stuck)
    jobs.close()


def test_a_job_that_other_work_holds_back_does_not_hang(tmp_path: Path, wav, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(pool, "STALLED_S", 1.0)
    monkeypatch.setattr(lifeline, "_ASKED_S", 0.1)
    jobs = Pool(tmp_path, workers=1)
    jobs.submit(1, wav("a.wav", band(30.0)), listen=False)
    polled(jobs, lambda said: 1 in begun(said))
    stopped = time.monotonic()
    monkeypatch.setattr(lifeline, "held_back", lambda pid: time.monotonic() - stopped)
    os.kill(jobs.processes[0], signal.SIGSTOP)
    said: list[Message] = []
    while time.monotonic() < stopped + 3:
        said += jobs.poll()
    assert not ended(said)
    monkeypatch.setattr(pool, "STALLED_S", 30.0)
    os.kill(jobs.processes[0], signal.SIGCONT)
    assert ended(polled(jobs, lambda said: 1 in ended(said)))[1] == ("done", None)
    jobs.close()


def test_what_stands_ready_and_is_not_let_is_held_back() -> None:
    core = min(os.sched_getaffinity(0))
    spin = f"import os; os.sched_setaffinity(0, [{core}]); print(flush=True)\nwhile True: pass"
    rivals = [subprocess.Popen([sys.executable, "-c", spin], stdout=subprocess.PIPE) for _ in range(2)]
    idle = subprocess.Popen(
        [sys.executable, "-c", "import time; print(flush=True); time.sleep(60)"], stdout=subprocess.PIPE
    )
    try:
        for one in (*rivals, idle):
            assert one.stdout is not None and one.stdout.readline()
        before, rested = lifeline.held_back(rivals[0].pid), lifeline.held_back(idle.pid)
        # of what its children wait for, a process is told, too
        ours = lifeline.held_back(os.getpid())
        wait_for(lambda: lifeline.held_back(rivals[0].pid) > before + 0.3)
        assert lifeline.held_back(os.getpid()) > ours + 0.3
        assert lifeline.held_back(idle.pid) < rested + 0.1
    finally:
        for one in (*rivals, idle):
            one.kill()
            one.wait()


def test_of_several_that_ran_when_a_worker_died_each_is_tried_again_alone(tmp_path: Path, wav) -> None:
    jobs = Pool(tmp_path, workers=2)
    path = wav("a.wav", band(60.0))
    for job in (1, 2, 3):
        jobs.submit(job, path, listen=False)
    said = polled(jobs, lambda said: len(begun(said)) >= 2)
    if ended(said):
        pytest.skip("this machine decodes faster than a process can be killed")
    os.kill(jobs.processes[0], signal.SIGKILL)
    most = 0

    def all_ended(said: list[Message]) -> bool:
        nonlocal most
        most = max(most, len(jobs._running)) if jobs._suspects else most
        return len(ended(said)) == 3

    said = polled(jobs, all_ended)
    assert {job: kind for job, (kind, _) in ended(said).items()} == {1: "done", 2: "done", 3: "done"}
    assert most == 1
    jobs.close()


def test_workers_may_not_take_all_memory(tmp_path: Path, wav) -> None:
    jobs = Pool(tmp_path, workers=1)
    jobs.submit(1, wav("a.wav", band(30.0)))
    polled(jobs, lambda said: 1 in begun(said))
    limits = Path(f"/proc/{jobs.processes[0]}/limits").read_text().splitlines()
    for name, most in (("Max address space", lifeline.MOST_SPACE), ("Max data size", lifeline.MOST_MEMORY)):
        row = next(line for line in limits if line.startswith(name))
        assert int(row.split()[3]) == most
    # of its own a process has little more than the gigabyte that is promised
    assert lifeline.MOST_MEMORY <= 1.25 * (1 << 30)
    jobs.close()


def test_opening_a_sound_that_hangs_is_given_up(tmp_path: Path, wav, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lifeline, "STALLED_S", 1.0)
    loader = SoundLoader(tmp_path)
    sound = band(300.0)
    loader.ask("long", wav("a.wav", sound), len(sound))

    def two(said: list[object]) -> bool:
        if said and loader._process._executor is not None:
            for pid in loader._process._executor._processes or {}:
                os.kill(pid, signal.SIGSTOP)
        return len(said) >= 2

    answers = [answer for _, answer in polled(loader, two)]
    assert isinstance(answers[0], Begun)
    assert "Nothing came out of this recording" in str(answers[1])
    monkeypatch.setattr(lifeline, "STALLED_S", 30.0)
    loader.ask("next", wav("b.wav", band(3.0)), 3 * RATE)
    answers = [answer for _, answer in polled(loader, lambda said: len(said) >= 2)]
    assert isinstance(answers[1], sound_loader.Decoded)
    loader.close()


def test_a_comparison_whose_process_dies_is_made_by_another(wav) -> None:
    asked = Identifier()
    asked.identify("first", wav("a.wav", band(3.0)))
    polled(asked, lambda said: len(said) >= 1)
    (pid,) = asked._process._executor._processes
    os.kill(pid, signal.SIGSTOP)
    asked.identify("second", wav("b.wav", band(4.0)))
    wait_for(lambda: asked._process._executor._pending_work_items)
    os.kill(pid, signal.SIGKILL)
    ((key, answer),) = polled(asked, lambda said: len(said) >= 1)
    assert key == "second"
    assert answer.duration == 4.0
    asked.close()


@pytest.mark.parametrize("changes", [0, 1, 2, 3])
def test_a_file_that_changes_while_it_is_read_is_read_again(changes: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settled, "SETTLES_S", (0.01, 0.02))
    reads, told = [], []

    def read() -> str:
        reads.append(1)
        if len(reads) <= changes:
            raise Changed("song.wav is being written to. Try again when it is finished.")
        return "whole"

    if changes < 3:
        assert settled.settled(read, lambda: told.append(1)) == "whole"
        assert len(reads) == changes + 1
    else:
        with pytest.raises(Changed):
            settled.settled(read, lambda: told.append(1))
    assert bool(told) == bool(changes)
