"""Worker processes: their story, taking back, a killed worker, and the cache they fill."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from mervid.core.edits import grid_edits
from mervid.core.errors import AudioError
from mervid.core.findings.report import Question, Report
from mervid.core.fitting import proposal
from mervid.core.hearing import evidence
from mervid.core.hearing.evidence import Evidence
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.sound import decoding
from mervid.core.sound.decoding import Decoded
from mervid.jobs import fitter, pcm, worker
from mervid.jobs.fitter import FOLLOW, STEADY, Fitter
from mervid.jobs.messages import BEGUN, Message
from mervid.jobs.pool import Pool
from mervid.jobs.sound_loader import Begun, SoundLoader
from tests.conftest import RATE, band, beats_heard, wait_for


def polled(source: Pool | SoundLoader | Fitter, when: Callable[[list[Any]], bool]) -> list[Any]:
    """What is said until `when` holds of all of it."""
    said: list[Any] = []

    def ready() -> bool:
        said.extend(source.poll())
        return when(said)

    wait_for(ready)
    return said


def until_ended(pool: Pool) -> list[Message]:
    """Poll until no job is left."""
    return polled(pool, lambda _: not pool.busy)


def test_a_job_tells_its_story_in_order(tmp_path: Path, wav) -> None:
    pool = Pool(tmp_path / "cache", workers=1)
    pool.submit(7, wav("a.wav", band(15.0, 112.0)))
    said = until_ended(pool)
    pool.close()
    kinds = [m.kind for m in said if m.kind != "progress"]
    assert kinds == ["decoded", "done"]
    assert {m.job for m in said} == {7}
    stages = [m.payload[0] for m in said if m.kind == "progress"]
    assert stages == sorted(stages, key=["decoding", "listening"].index)
    facts, waveform = next(m.payload for m in said if m.kind == "decoded")
    assert facts.frames == waveform.frames == 15 * RATE
    done = said[-1].payload
    assert evidence.from_bytes(done.heard).heard.times[0] > 0
    assert done.first.grid is not None
    assert done.kind == "steady"
    samples = pcm.load(tmp_path / "cache", facts.identity, facts.frames)
    assert samples is not None
    assert samples.shape == (facts.frames, 2)
    with pytest.raises(ValueError, match="read-only"):
        samples[0] = 1


def test_taken_back_before_it_began(tmp_path: Path, wav) -> None:
    pool = Pool(tmp_path, workers=1)
    path = wav("a.wav", band(15.0, 112.0))
    for job in (1, 2, 3):
        pool.submit(job, path)
    pool.cancel(3)
    pool.cancel(99)
    said = until_ended(pool)
    pool.close()
    last = {m.job: m.kind for m in said if m.kind in ("done", "failed", "cancelled")}
    assert last == {1: "done", 2: "done", 3: "cancelled"}


def test_decoding_only(tmp_path: Path, wav) -> None:
    pool = Pool(tmp_path, workers=1)
    pool.submit(1, wav("a.wav", band(3.0)), listen=False)
    said = until_ended(pool)
    pool.close()
    assert said[-1] == Message(1, "done", None)
    assert len(list((tmp_path / "pcm").glob("*.i16"))) == 1


def test_what_a_person_opens_goes_before_all_that_waits(tmp_path: Path, wav) -> None:
    pool = Pool(tmp_path, workers=1)
    path = wav("a.wav", band(3.0))
    # far more than workers: all of them are kept, none is handed over before its turn
    for job in range(6000):
        pool.submit(job, path, listen=False)
    pool.hurry(5000)
    pool.hurry(4000)
    pool.cancel(2)
    pool.cancel(4098)

    def ends(said: list[Message]) -> list[int]:
        return [m.job for m in said if m.kind in ("done", "cancelled")]

    ended = ends(polled(pool, lambda said: len(ends(said)) >= 6))
    assert set(ended[:3]) == {0, 2, 4098}
    # the last to be hurried is the first; the rest follow in their order
    assert ended[3:6] == [4000, 5000, 1]
    assert len(pool.processes) == 1
    assert not pool.has(2)
    assert pool.has(4096)
    pool.close()
    assert not pool.processes


def gone(pid: int) -> bool:
    """Whether a process has ended; what nobody waited for counts as ended."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] == "Z"
    except OSError:
        return True


@pytest.mark.parametrize("after", [0.05, 0.3, 1.5])
def test_no_process_outlives_an_owner_that_is_killed(tmp_path: Path, wav, after: float) -> None:
    script = tmp_path / "owner.py"
    script.write_text(
        "import sys, time\n"
        "from pathlib import Path\n"
        # as the program's own module does, it leaves to its processes what they import
        "if __name__ == '__main__':\n"
        "    from mervid.jobs import lifeline\n"
        "    from mervid.jobs.pool import Pool\n"
        "    pool, one = Pool(Path(sys.argv[1]), workers=2), lifeline.OneProcess('one')\n"
        "    for job in range(9): pool.submit(job, Path(sys.argv[2]))\n"
        "    one.later(one.call, time.sleep, 60)\n"
        "    while len(pool.processes) < 2 or one._executor is None or not one._executor._processes: time.sleep(0.01)\n"
        "    print(*pool.processes, *one._executor._processes, flush=True)\n"
        "    time.sleep(60)\n"
    )
    root = Path(__file__).parents[2]
    args = [sys.executable, str(script), str(tmp_path / "cache"), str(wav("a.wav", band(20.0)))]
    owner = subprocess.Popen(args, cwd=root, env=os.environ | {"PYTHONPATH": str(root)}, stdout=subprocess.PIPE)
    assert owner.stdout is not None
    processes = [int(word) for word in owner.stdout.readline().split()]
    assert len(processes) == 3
    time.sleep(after)
    owner.kill()
    owner.wait()
    wait_for(lambda: all(map(gone, processes)), seconds=2.0)


@pytest.mark.parametrize(("subtype", "ending"), [("PCM_16", ".i16"), ("PCM_24", ".f32"), ("FLOAT", ".f32")])
def test_the_cache_keeps_what_was_decoded_to_the_last_bit(tmp_path: Path, subtype: str, ending: str) -> None:
    rng = np.random.default_rng(4)
    # a beginning that is silent at any depth, full scale both ways, and then the finest steps there are
    sound = np.concatenate([np.zeros((70_000, 2)), [[1.0, -1.0]], rng.uniform(-1, 1, (60_000, 2))]).astype(np.float32)
    path = tmp_path / "a.wav"
    soundfile.write(path, sound, RATE, subtype=subtype)
    writer = pcm.Writer(tmp_path)
    decoded: list[np.ndarray] = []

    def take(block: np.ndarray) -> None:
        writer.push(block)
        decoded.append(block)

    facts = decoding.decode(decoding.probe(path), take)
    assert writer.keep(facts.identity).suffix == ending
    kept = pcm.load(tmp_path, facts.identity, facts.frames)
    assert kept is not None
    np.testing.assert_array_equal(decoding.floats(kept), np.concatenate(decoded))


def answers(loader: SoundLoader, count: int) -> list[object]:
    """Poll until so many answers came."""
    return [answer for _, answer in polled(loader, lambda said: len(said) >= count)]


def test_sound_that_left_the_cache_is_mapped_at_once_and_fills_up(tmp_path: Path, wav) -> None:
    loader = SoundLoader(tmp_path)
    sound = band(30.0)
    loader.ask("gone", tmp_path / "gone.wav", RATE)
    assert answers(loader, 1) == ["gone.wav is not there any more."]
    path = wav("a.wav", sound)
    loader.ask("left", path, len(sound))
    loader.ask("open", path, len(sound))
    begun, facts = answers(loader, 2)
    assert isinstance(begun, Begun)
    assert isinstance(facts, Decoded)
    assert (begun.frames, begun.channels) == (len(sound), 2)
    assert pcm.load(tmp_path, facts.identity, facts.frames) is not None
    assert not list((tmp_path / "pcm").glob("*.part"))
    loader.ask("open", path, len(sound))
    mapped = answers(loader, 1)[0].samples()
    assert isinstance(answers(loader, 1)[0], Decoded)
    np.testing.assert_allclose(mapped, sound, atol=1 / 32768)
    loader.close()


class Recorder:
    """Stands in for the queue and the flags of a worker process."""

    def __init__(self) -> None:
        self.said: list[tuple[int, str, object]] = []

    def put(self, message: tuple[int, str, object]) -> None:
        self.said.append(message)


@pytest.fixture
def told(monkeypatch: pytest.MonkeyPatch) -> Recorder:
    recorder = Recorder()
    monkeypatch.setattr(worker, "_queue", recorder)
    monkeypatch.setattr(worker, "_flags", [0, 1])
    return recorder


def test_a_worker_answers_whatever_happens(
    tmp_path: Path, told: Recorder, wav, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = os.fsencode(wav("a.wav", band(3.0)))
    worker.run(5, 1, path, str(tmp_path), True)
    assert told.said == [(5, BEGUN, os.getpid()), (5, "cancelled", "")]
    told.said.clear()
    worker.run(5, 0, os.fsencode(tmp_path / "gone.wav"), str(tmp_path), True)
    assert told.said[-1][1:] == ("failed", "gone.wav is not there any more.")
    monkeypatch.setattr(worker.analysis, "decode", lambda *a, **k: 1 / 0)
    worker.run(5, 0, path, str(tmp_path), True)
    assert told.said[-1][1] == "failed"
    assert "ZeroDivisionError" in str(told.said[-1][2])
    monkeypatch.setattr(worker.analysis, "decode", lambda *a, **k: (_ for _ in ()).throw(MemoryError()))
    worker.run(5, 0, path, str(tmp_path), True)
    assert "not enough memory" in str(told.said[-1][2])
    assert not list((tmp_path / "pcm").glob("*.part"))


def test_a_full_disk_while_decoding(tmp_path: Path, told: Recorder, wav, monkeypatch: pytest.MonkeyPatch) -> None:
    class Full:
        def write(self, data: bytes) -> None:
            raise OSError(28, "No space left on device")

        def close(self) -> None:
            raise OSError(28, "No space left on device")

    real = pcm.Writer.__init__

    def init(self: pcm.Writer, folder: Path, limit: int | None = None) -> None:
        real(self, folder, limit)
        self._file.close()
        self._file = Full()  # type: ignore[assignment]

    monkeypatch.setattr(pcm.Writer, "__init__", init)
    worker.run(1, 0, os.fsencode(wav("a.wav", band(3.0))), str(tmp_path), True)
    assert told.said[-1][1] == "failed"
    assert "The disk is full: there is no room for decoded audio" in str(told.said[-1][2])


def test_the_cache_forgets_what_was_used_longest_ago(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    block = np.zeros((1000, 2), np.float32)
    monkeypatch.setattr(pcm, "LIMIT", 10_000)
    for k, name in enumerate(("old", "middle", "new")):
        writer = pcm.Writer(tmp_path)
        writer.push(block)
        path = writer.keep(name)
        os.utime(path, (k, k))
    assert pcm.load(tmp_path, "old", 1000) is None
    assert pcm.load(tmp_path, "middle", 1000) is not None
    new = pcm.load(tmp_path, "new", 1000)
    assert new is not None
    assert new.shape == (1000, 2)
    assert pcm.load(tmp_path, "gone", 1000) is None
    # a file of another length is another decoder's: not used
    assert pcm.load(tmp_path, "new", 999) is None
    (tmp_path / "pcm" / "writing-999999999.part").write_bytes(b"half")
    (tmp_path / "pcm" / "writing-999999999-open.part").write_bytes(b"half")
    (tmp_path / "pcm" / f"writing-{os.getpid()}-open.part").write_bytes(b"half, by a living process")
    # whoever writes next clears the cache
    pcm.Writer(tmp_path).drop()
    assert [f.name for f in (tmp_path / "pcm").glob("*.part")] == [f"writing-{os.getpid()}-open.part"]


def test_a_folder_that_cannot_hold_a_cache(tmp_path: Path) -> None:
    (tmp_path / "pcm").write_text("in the way")
    with pytest.raises(AudioError, match="can't be kept in"):
        pcm.Writer(tmp_path)


DRUMMER = beats_heard(0.5 + np.concatenate([[0.0], np.cumsum(60 / (114 + 3 * np.sin(np.arange(200) / 30)))]))


def test_offers_say_what_both_fits_achieve() -> None:
    first = proposal.propose(DRUMMER, 110.0)
    both = fitter.offers(first, DRUMMER)
    steady, follow = both[STEADY], both[FOLLOW]
    assert steady.summary is not None
    assert follow.summary is not None
    assert steady.summary.worst > 100
    assert follow.summary.within == 1
    assert follow.preparation is not None
    assert len(follow.preparation.grid.pins) > 3
    # a locked track can still be looked at: the offers are computed, using them is refused elsewhere
    assert fitter.offers(pr.set_readiness(first, pr.LOCKED), DRUMMER)[FOLLOW].preparation is not None
    two = grid_edits.add_pin(grid_edits.add_pin(first, 0.0, 0.5), 100.0, float(DRUMMER.times[100]))
    assert "2 hand pins" in fitter.offers(two, DRUMMER)[STEADY].refusal


def test_only_the_newest_question_is_answered_with_offers_and_then_a_report() -> None:
    asked = Fitter()
    attack = np.zeros(112_000, np.uint8)
    attack[np.rint(DRUMMER.times * 1000).astype(int)] = 200
    evidence = Evidence(DRUMMER, attack, np.zeros(8, np.uint8), DRUMMER.times, np.ones(len(DRUMMER.times), np.float32))
    question = Question(proposal.propose(DRUMMER, 110.0), evidence, 110.0)
    keys = [object() for _ in range(4)]
    for key in keys:
        asked.ask(key, question)
    answers = polled(asked, lambda said: len(said) >= 2)
    assert [key for key, _ in answers] == [keys[-1]] * 2
    offers, report = (answer for _, answer in answers)
    assert isinstance(offers, dict)
    assert isinstance(report, Report)
    assert report.kind == "wandering"
    assert report.doubts == 1
    assert asked.poll() == []
    asked.close()


def test_mix_zones_stay_within_a_quarter_at_each_end() -> None:
    grid = Grid((Pin(0.5, 0), Pin(10.5, 20)))
    zones = proposal.mix_zones_of(grid, beats_heard(np.arange(0.5, 60, 0.5)), 60.0)
    assert zones == ((0.45, 15.5), (44.5, 59.55))
    assert proposal.mix_zones_of(grid, beats_heard(np.arange(3.0)), 60.0) == ()
