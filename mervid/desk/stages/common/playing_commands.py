"""Commands of the transport: play, the reference beat, loops, speed."""

from __future__ import annotations

from ...commands.command import EAR, PROGRAM, CommandSet, command
from ...session.session import Session
from ...widgets.transport import Transport


class PlayingCommands(CommandSet):
    """What is heard, whatever is open."""

    typing = True

    def __init__(self, session: Session, transport: Transport) -> None:
        self.player, self.listening, self.transport = session.player, session.listening, transport

    @command("K", "Reference beat on or off", EAR, also="metronome click beat along the grid")
    def click(self, _: object) -> None:
        self.transport.click.toggle()

    @command("Shift+K", "Next reference beat", EAR, also="metronome pattern kick hat shaker backbeat sound")
    def next_beat(self, _: object) -> None:
        self.transport.next_pattern()

    @command("Ctrl+K", "Split: the track in one ear, the reference beat in the other", EAR, also="metronome headphones")
    def split(self, _: object) -> None:
        self.transport.split.toggle()

    @command("Alt+K", "Half-beats in the reference beat", EAR, also="metronome eighths")
    def beat_halves(self, _: object) -> None:
        self.transport.toggle_halves()

    @command("Ctrl+J", "Loop on or off", EAR, also="repeat round")
    def loop(self, _: object) -> None:
        self.listening.toggle_loop()

    @command("Alt+Up", "Longer loop", EAR)
    def loop_longer(self, _: object) -> None:
        self.listening.step_length(1)

    @command("Alt+Down", "Shorter loop", EAR)
    def loop_shorter(self, _: object) -> None:
        self.listening.step_length(-1)

    @command("Alt+H", "Half speed", EAR, also="slow")
    def half_speed(self, _: object) -> None:
        self.listening.toggle_half()

    @command("Home", "Go to the beginning", PROGRAM, also="start")
    def home(self, _: object) -> None:
        self.player.seek(0.0)

    @command("End", "Go to the end", PROGRAM)
    def end(self, _: object) -> None:
        self.player.seek(self.player.duration)
