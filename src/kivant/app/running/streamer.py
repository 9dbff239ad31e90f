"""The streamer: plays a source of motion on a board, watches, stops, compares. One for window and command line."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Iterator, Mapping

from msgspec.structs import replace

from kivant.app.running.source import MakeSource, MotionSource
from kivant.app.running.status import AxisResult, Log, Phase, Status
from kivant.board.protocol.client import BoardState, Client
from kivant.board.protocol.link import Link
from kivant.board.protocol.record import PLACE_BITS
from kivant.board.transport import BoardError
from kivant.core.errors import Fault, KivantError
from kivant.core.findings.checks import machine_findings
from kivant.core.findings.finding import errors_in
from kivant.core.machine import Machine
from kivant.core.travel.mechanics import Pointer

STOPPING_S, POWER_OFF_S = 5.0, 2.0
"""How long a board may go on moving after a stop, beside twice its braking time; and after its power is taken away."""


class Streamer:
    """One run of one source.

    Parameters
    ----------
    make : callable
        Makes the source, on the thread that executes the run.
    address : str or None
        Of a board; None: a stand-in of its own, for the time of the run.
    watchdog_s : float
        After how long a silence the board is to brake by itself.
    clock : callable or None
        For a stand-in of its own: seconds.
    pointers : mapping of str to Pointer or None
        For a stand-in of its own: what is at the tools of its axes; they stay for the next run.
    """

    def __init__(
        self,
        make: MakeSource,
        address: str | None = None,
        *,
        watchdog_s: float = 1.0,
        clock: Callable[[], float] | None = None,
        pointers: Mapping[str, Pointer] | None = None,
    ) -> None:
        self.source: MotionSource | None = None
        self.address = address
        self.log = Log()
        self.status = Status()
        self._make = make
        self._watchdog_s, self._clock, self._pointers = watchdog_s, clock, pointers
        self._stops, self._braked = 0, False
        self._brake_s = 0.0  # the longest of what was sent
        self._stop_asked_s: list[float] = []  # when each stop was seen
        self._wake = threading.Event()

    @property
    def start_steps(self) -> tuple[int, ...]:
        """Where the axes stood when the run began, in steps; empty before it is known."""
        return tuple(place >> PLACE_BITS for place in self.source.start_places) if self.source else ()

    def stop(self) -> None:
        """Stop: the first call brakes on the ramp and keeps the power, the second takes it away at once."""
        self._stops += 1
        self.wake()

    def wake(self) -> None:
        """Have the source asked at once."""
        self._wake.set()

    def execute(self) -> Status:
        """Do the whole run in the calling thread; return how it ended. Errors end up in the status."""
        try:
            source = self.source = self._make()
            _refuse_errors(source.machine)
            with self._board() as address, Link(address, self.log.add) as link:
                self._publish(board=address)
                client = Client(link)
                client.set_up(source.machine, source.start_places, self._watchdog_s)
                self._play(client, source)
        except KivantError as error:
            self._publish(phase="failed", message=str(error))
        finally:
            if not self.status.over:  # whatever went wrong: nobody is to wait for its end
                self._publish(phase="failed", message="The run was ended by an internal error.")
        return self.status

    def _board(self) -> contextlib.AbstractContextManager[str]:
        if self.address is not None:
            return contextlib.nullcontext(self.address)

        @contextlib.contextmanager
        def own() -> Iterator[str]:
            from kivant.board.standin.server import BoardServer  # a server costs start time that few runs need

            with BoardServer(clock=self._clock, pointers=self._pointers) as server:
                yield server.address

        return own()

    def _publish(self, **changes: object) -> None:
        self.status = replace(self.status, **changes)

    def _play(self, client: Client, source: MotionSource) -> None:
        ended = self._feed(client, source, client.look(), told=False)
        if not self.status.sent:
            self._finish(client, source, "done")
            return
        if self._stops and not source.stops_itself:  # nothing begins to move that was stopped before
            client.brake()
            self._finish(client, source, "stopped")
            return
        client.start()
        self._publish(phase="moving")
        while True:
            self._send_stops(client, source)
            state = client.look()
            phase: Phase = "braking" if state.motion == "BRAKE" else self.status.phase
            self._publish(phase=phase, elapsed_s=state.elapsed_s, counts=state.counts)
            if state.motion in ("IDLE", "STOP"):
                cut_short = state.motion == "STOP" or (self._braked and not source.ended)
                self._finish(client, source, "stopped" if cut_short else "done")
                return
            self._give_up_late(client.address)
            if state.motion == "MOVE":
                ended = self._feed(client, source, state, told=ended)
            self._wake.wait(source.poll_s)
            self._wake.clear()

    def _feed(self, client: Client, source: MotionSource, state: BoardState, *, told: bool) -> bool:
        """Send what the source has; return whether the board has been told that no more will follow."""
        if self._stops and source.stops_itself:
            source.stop()
        room: int | None = state.room
        while room is not None and not self._braked and (feed := source.offer(state.begun, room)):
            spans, first, last = feed
            room = client.append(spans) if first is None else client.replace(spans, first, last)
            if room is not None:  # else it came too late: the next look tells where the board is
                source.accept(feed)
                self._publish(room=room, sent=self.status.sent + len(spans))
                self._brake_s = max(self._brake_s, *(max(span.brake_us) * 1e-6 for span in spans), 0.0)
            if self._stops and not source.stops_itself:
                break
        if source.ended and not told:
            client.end()
        return source.ended or told

    def _give_up_late(self, address: str) -> None:
        """End a run that was to stop long ago, on a board that still says it moves."""
        if not self._stops:
            return
        # As long as the hardest braking takes, and some; once the power is taken away, no longer than to say so.
        limit_s = POWER_OFF_S if self._stops > 1 else STOPPING_S + 2 * self._brake_s
        while len(self._stop_asked_s) < min(self._stops, 2):
            self._stop_asked_s.append(time.monotonic())
        if time.monotonic() - self._stop_asked_s[-1] > limit_s:
            message = "The board was told to stop but still reports motion. The positions of its axes are unknown."
            raise BoardError(Fault(f"board {address}", message, "Switch off its power by hand."))

    def _send_stops(self, client: Client, source: MotionSource) -> None:
        if self._stops == 1 and not self._braked and not source.stops_itself:
            client.brake()
            self._braked = True
            self._publish(phase="braking")
        self._cut_power(client)

    def _cut_power(self, client: Client) -> None:
        """Take the power away where stop was asked for twice, also when the motion ended in between."""
        if self._stops > 1 and self.status.power:
            client.cut_power()
            self._braked = True
            self._publish(power=False)

    def _finish(self, client: Client, source: MotionSource, phase: Phase) -> None:
        self._cut_power(client)
        if phase == "stopped" and not self._stops:
            client.refuse_reported("stopped by itself")
        counts = client.counts()
        rows = zip(source.machine.axes, source.final_steps(), counts, strict=True)
        results = tuple(AxisResult(axis.name, planned, counted) for axis, planned, counted in rows)
        self._publish(phase=phase, counts=counts, results=results, pointers=client.pointers())


def _refuse_errors(machine: Machine) -> None:
    # Whoever calls may have looked at older findings, or at none: this is the last door before anything moves.
    errors = [Fault(f.place, f.message, f.remedy) for f in errors_in(machine_findings(machine))]
    if errors:
        raise BoardError(*errors)
