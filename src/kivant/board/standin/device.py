"""The bundled stand-in: a board in software that speaks the protocol and keeps counts and line levels.

It takes its clock as an argument and has no threads or sockets. docs/board-protocol.md says what it does not
model.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Mapping

from msgspec import Struct, field

from kivant.board.protocol.syntax import DeviceError, Receiver, Unit
from kivant.board.standin.axis_play import Timing
from kivant.board.standin.player import Player
from kivant.core.travel.mechanics import Pointer

MOST_ERRORS = 32
_AT_A_TIME = 64  # spans of an axis that are played before somebody else may have a turn


class Wiring(Struct):
    """How one axis's steps become levels, as the host has defined it; times in s, levels 0 or 1."""

    lines: tuple[str, ...] = ()
    words: tuple[int, ...] = ()  # coils only
    active: int = 1
    positive: int = 1
    enable_active: int = 0
    high_s: float = 0.0
    low_s: float = 0.0
    setup_s: float = 0.0
    hold_s: float = 0.0
    interval_s: float = 0.0  # between two steps, whatever the driver takes
    pair: bool = False
    off_at_rest: bool = False

    def timing(self) -> Timing:
        """Return how close together steps may come."""
        interval_s = max(self.high_s + self.low_s, self.interval_s)
        hold_s = max(self.hold_s, self.high_s)
        return Timing(interval_s, max(hold_s + self.setup_s, interval_s), hold_s)


class Session(Struct, eq=False):
    """One connection: what it has sent, what it still waits for, and when it was last understood."""

    receiver: Receiver = field(default_factory=Receiver)
    waiting: deque[Unit | DeviceError | None] = field(default_factory=deque)  # None: here ends a message
    answers: list[str] = field(default_factory=list)  # to the message that is worked on
    awaits_completion: int = 0
    heard_s: float = 0.0


class StandIn:
    """A board with so many lines; `clock` returns seconds that never go back.

    ``pointers``, by the names of axes, show where tools are; they stay where they are whatever counts are set.
    """

    DEFAULT_WATCHDOG_S = 0.5

    def __init__(
        self,
        clock: Callable[[], float],
        lines: int = 64,
        tick_hz: int = 1_000_000,
        capacity: int = 512,
        pointers: Mapping[str, Pointer] | None = None,
    ) -> None:
        self.clock = clock
        self.pointers = pointers or {}
        self.lines = [f"P{i}" for i in range(lines)]
        self.player = Player(tick_hz, capacity)
        self.wiring: list[Wiring] = []
        self.origin: list[int] = []  # counts at which coils stand on row 0
        self.powered = False
        self.watchdog_s = self.DEFAULT_WATCHDOG_S
        self.errors: list[tuple[int, str]] = []
        self.events = 128  # power on
        self.event_mask = self.service_mask = 0
        self.owner: Session | None = None
        self.heard_s = self.now_s = self._present_s = clock()
        self.completing = False

    def report(self, error: DeviceError) -> None:
        """Put an error into the queue; a full queue ends with -350."""
        bit = {-1: 32, -2: 16, -3: 8, -4: 4}.get(-(-error.number // 100), 8) if error.number < 0 else 8
        self.events |= bit
        if len(self.errors) < MOST_ERRORS:
            self.errors.append((error.number, error.text))
        else:
            self.errors[-1] = (-350, "Queue overflow")

    # Time

    def advance(self) -> None:
        """Let the motion go on to the present, and brake where the host has been silent for too long.

        What takes long is done in part: then the board is `behind`.
        """
        now = self._present_s = self.clock()
        silent_at = self.heard_s + self.watchdog_s
        if self.player.state == "MOVE" and self.watchdog_s > 0.0 and silent_at < now:
            self._pass(silent_at)
            if self.behind and self.now_s < silent_at:
                return
            if self.player.state == "MOVE":
                self.report(DeviceError(-365, "Time out error", "the host was silent while moving"))
                self.player.brake()
        self._pass(now)

    @property
    def behind(self) -> bool:
        """Whether there is more to play until the present: who can, lets time go on once more."""
        return self.player.moving and self.now_s < self._present_s

    def _pass(self, until_s: float) -> None:
        was_moving = self.player.moving
        left_s = self.player.advance(max(until_s - self.now_s, 0.0), max(_AT_A_TIME // max(len(self.wiring), 1), 1))
        self.now_s = max(until_s - left_s, self.now_s)
        if was_moving and not self.player.moving:
            if self.player.starved:
                self.report(DeviceError(-300, "Device-specific error", "the motion ran out of spans"))
            if self.completing:
                self.events |= 1
                self.completing = False

    # Lines

    def levels(self) -> dict[str, int]:
        """Return the level of every line now."""
        levels = dict.fromkeys(self.lines, 0)
        counts = self.player.now()
        for i, wiring in enumerate(self.wiring):
            on = self.powered and not (wiring.off_at_rest and not self.player.moving)
            if wiring.words:
                word = wiring.words[(counts[i] - self.origin[i]) % len(wiring.words)] if on else 0
                bits = [word >> k & 1 for k in range(len(wiring.lines))]
                levels.update(
                    (line, bit if wiring.active else 1 - bit) for line, bit in zip(wiring.lines, bits, strict=True)
                )
            elif wiring.lines:
                levels.update(zip(wiring.lines, self._pulse_levels(i, wiring, on), strict=False))
        return levels

    def _pulse_levels(self, i: int, wiring: Wiring, on: bool) -> tuple[int, int, int]:
        pulsing = self.player.moving and 0.0 <= self.player.axes[i].since_step(self.player.within_s) < wiring.high_s
        forward = self.player.direction(i) > 0
        rest = 1 - wiring.active
        first = wiring.active if pulsing and (forward or not wiring.pair) else rest
        if wiring.pair:
            second = wiring.active if pulsing and not forward else rest
        else:
            second = wiring.positive if forward else 1 - wiring.positive
        return first, second, wiring.enable_active if on else 1 - wiring.enable_active

    # What commands share

    def set_axes(self, count: int) -> None:
        """Forget all axes and have so many new ones, not wired yet."""
        self.wiring, self.origin = [Wiring() for _ in range(count)], [0] * count
        self.player.reset(count)

    def tell_timing(self) -> None:
        """Have the axes play as their wiring says."""
        for wiring, axis in zip(self.wiring, self.player.axes, strict=True):
            axis.timing = wiring.timing()

    def need_rest(self) -> None:
        """Refuse what cannot be done while axes move: raises `DeviceError`."""
        if self.player.moving:
            raise DeviceError(-213, "Init ignored", "not while moving")

    def wiring_of(self, unit: Unit) -> Wiring:
        """Return the wiring of the axis that a command's suffix names; raises `DeviceError` if there is none."""
        if not 1 <= unit.channel <= len(self.wiring):
            raise DeviceError(-114, "Header suffix out of range", f"axis {unit.channel}")
        return self.wiring[unit.channel - 1]

    def known_lines(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """Return the names, all of which must be lines of this board; raises `DeviceError` if one is not."""
        for name in names:
            if name not in self.lines:
                raise DeviceError(-224, "Illegal parameter value", f"no line {name}")
        return names
