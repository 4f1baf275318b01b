"""Real output while the window works: used by `bench/ear.py --sound` and `bench/together.py sound`.

A null sink of a real sound server is played into with a buffer of 250 ms for some minutes, one track or two that are
rehearsed, while two recordings are analysed again and again and the fold is dragged. Counted: how often the sound
process was asked too late, how long after a seek the new place is heard, and the share of one core that it takes.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from pathlib import Path


def _cpu(pid: int) -> float:
    """CPU time of a process, s (fields 14 and 15 of /proc/PID/stat)."""
    fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def _steal() -> tuple[float, float]:
    """Time that other machines took from this one, and all time, in ticks."""
    fields = [float(x) for x in Path("/proc/stat").read_text().splitlines()[0].split()[1:]]
    return fields[7], sum(fields)


def run(minutes: float, *, two: bool = False) -> None:
    """Play one track, or two together, for some minutes, and print what was measured."""
    from tests.desk.sound_server import SoundServer, missing

    if missing():
        print(f"Real output: not measured, {missing()}.")
        return
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        (home / "sound").mkdir()
        server = SoundServer(home / "sound")
        os.environ["PULSE_SERVER"] = server.address
        try:
            _play(home, minutes, two)
        finally:
            server.stop()


def _play(home: Path, minutes: float, two: bool) -> None:
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.desk.app import make_window
    from mervid.desk.session.session import Session
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    app = QApplication(sys.argv[:1])
    player = Player(look_for_device=False)
    session = Session(Library(home / "library.sqlite"), home / "cache", player)
    window = make_window(session)
    window.resize(1280, 800)
    window.show()

    def spin(until, seconds: float = 300.0) -> None:  # type: ignore[no-untyped-def]
        end = time.monotonic() + seconds
        while not until() and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.002)

    tracks = [places.demo_folder() / f"{n}.ogg" for n in ("Copper Ferry", "Night Barge", "Slack Water")]
    session.queue.add_files(tracks)
    spin(lambda: not session.queue.pool.busy)
    ids = [t.id for t in window.session.library.tracks()]
    session.open(next(t.id for t in window.session.library.tracks() if t.title == "Copper Ferry"))
    spin(lambda: session.reports.fresh)
    if two:
        window.go_to_stage("rehearse")
        numbers = {t.title: t.id for t in window.session.library.tracks()}
        window.ask_of("rehearse", "pair", (numbers["Copper Ferry"], numbers["Slack Water"]))
        spin(lambda: session.pairing.judged is not None and player.program is not None)
        # both pitches held, both basses parted: the dearest there is
        session.pairing.alter("As dear as it can be", clock="steady", tempo=114.7, swap=8)
    player.look()
    player._device.buffer_s = 0.25  # type: ignore[union-attr]
    player._device.look()  # type: ignore[union-attr]
    spin(lambda: "silent" not in player.output_name)
    window.transport.click.setChecked(True)
    player.play()
    spin(lambda: player.position > 1.0, 60)
    device = player._device
    assert device is not None
    assert device.pid is not None
    grid = session.track.preparation.grid
    assert grid is not None
    if two:
        assert session.pairing.judged is not None
        player.set_loop((session.pairing.judged.together.start, session.pairing.judged.together.stop))
    began, used, stolen = time.monotonic(), _cpu(device.pid), _steal()
    seeks, step, drags = [], 0, 0
    while time.monotonic() - began < 60 * minutes:
        for number in [i for i in ids if session.track.row is None or i != session.track.row.id][:2]:
            if not session.queue.pool.has(number):
                session.queue.analyse(number)
        beat = 60 + step % 40
        if two:
            window.stages["rehearse"].view.fold.pushing.emit(0.5 * (step % 40))
        else:
            fold = window.stages["align"].view.fold
            fold.pin_moving.emit(float(grid.time_at(beat)) + 0.002 * (step % 9), float(beat), True)
        window.repaint()
        drags += 1
        step += 1
        if step % 400 == 0:
            session.track.preview.clear()
            goal = 5.0 + (step * 7.3) % 70
            if two:
                assert session.pairing.judged is not None
                goal = session.pairing.judged.together.start + (step * 7.3) % 25
            asked = time.monotonic()
            player.seek(goal)
            spin(lambda g=goal: abs(device.place() - g) < 0.5, 5)
            seeks.append(1000 * (time.monotonic() - asked))
        spin(lambda: True)
        if not player.playing:
            player.seek(1.0)
            player.play()
    seconds = time.monotonic() - began
    late, every = (b - a for a, b in zip(stolen, _steal(), strict=True))
    print(
        f"Real output, {seconds / 60:.1f} min at a buffer of 250 ms, two recordings analysed, {drags} frames dragged: "
        f"{device.stumbles} stumbles (target 0); the machine lost {late / every:.0%} of its time to others"
    )
    print(
        f"  the sound process takes {(_cpu(device.pid) - used) / seconds:.1%} of one core (target {25 if two else 5} %)"
    )
    if seeks:
        print(
            f"  seek to sound: {statistics.median(seeks):.0f} ms median, {max(seeks):.0f} ms worst of {len(seeks)}, "
            "the buffer of 250 ms in it (target 60 ms and the buffer)"
        )
    window.close()
