"""Running: what moves on a board now, how the latest run ended, and where the axes stand."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import TYPE_CHECKING

from msgspec.structs import replace

from kivant.app.choice import Choice
from kivant.app.event import Event
from kivant.app.planning.own_move import NAME, own_move
from kivant.app.planning.planning import Planning
from kivant.app.running.standing import Standing
from kivant.app.running.status import Status
from kivant.app.running.stops import Stops
from kivant.app.running.tools import Tools
from kivant.core.errors import KivantError
from kivant.core.findings.finding import Finding, errors_in
from kivant.core.machine import Machine, Move, Routine
from kivant.core.machine.axes import as_written
from kivant.core.motion.builder import plan
from kivant.core.motion.plan import Plan
from kivant.core.motion.remainder import remainder
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import nearest_step, steps_per_unit

if TYPE_CHECKING:
    from kivant.app.running.by_row import ByRow
    from kivant.app.running.manual_move import ManualMove
    from kivant.app.running.source import MotionSource
    from kivant.app.running.streamer import Streamer


class Running:
    """A board's motion.

    ``changed`` tells that a run was looked at, ``turned`` that one has begun or ended, ``arrived`` that axes stand
    somewhere else, ``noticed`` (with a text) what a person should read.
    """

    def __init__(self, choice: Choice, planning: Planning) -> None:
        self.changed, self.turned, self.arrived, self.noticed = Event(), Event(), Event(), Event()
        self._choice, self._planning = choice, planning
        self.address, self.address_error = "", ""
        self.standing = Standing()
        self.followed = self.standing  # the same while something moves that is not the plan, as it was last looked at
        self.tools = Tools()
        self.streamer: Streamer | ByRow | None = None
        # Where the latest run was when it was looked at: all that is shown belongs to the same moment.
        self.status: Status | None = None
        self.active = self.going_on = False  # the second: what is left of a run that was stopped is run
        self.plan: Plan | None = None  # of the latest run, if it plays one
        self._way: Plan | None = None  # what it plays, also of a visit, which nobody looks at
        self._machine: Machine | None = None
        self._manual: ManualMove | None = None
        self.stops = Stops()
        self._stopped: Plan | None = None  # what the latest run was stopped in, where it can go on
        self._thread: threading.Thread | None = None

    # What can be done

    def set_address(self, text: str) -> None:
        """Take the address of a board; one that cannot be is explained and not used. Empty: the stand-in."""
        address, self.address_error = text.strip(), ""
        try:
            if address:
                from kivant.board.transport import check_address  # with the ways to boards: not for the start

                check_address(address)
            self.address = address
        except KivantError as error:
            self.address_error = error.faults[0].said
        self.changed()

    @property
    def obstacle(self) -> str:
        """Why the plan cannot be run as it is, empty if it can."""
        made = self._planning.plan
        if made is None or self._planning.busy:
            return "No plan yet."
        if self._choice.routine_name is None and self._choice.own_move.errors:
            return next(iter(self._choice.own_move.errors.values()))
        return _error_of_machine(self._planning.findings) or (
            "" if any(a.steps for a in made.axes) else "Nothing moves in this plan."
        )

    # Starting and stopping

    def start(self) -> bool:
        """Run the plan on the board; return whether it was begun."""
        made = self._planning.plan
        if self.active or self.obstacle or self.address_error or made is None:
            return False
        self._begin(_player(self, lambda: made), made.machine, made)
        return True

    @property
    def can_go_on(self) -> bool:
        """Whether the latest run was stopped on its path, and nothing has moved or changed since."""
        stopped = self._stopped
        return not self.active and stopped is not None and stopped.machine.axes == self._choice.machine.axes

    def go_on(self) -> bool:
        """Run what is left of the plan in which the latest run was stopped; return whether it was begun."""
        stopped, status, machine = self._stopped, self.status, self._choice.machine
        if (
            not self.can_go_on
            or stopped is None
            or status is None
            or self.address_error
            or not self._planning.checked(machine)
            or _error_of_machine(self._planning.findings)
        ):
            return False

        def make() -> Plan:
            # A routine of many blocks takes a while to plan: this is done on the run's own thread.
            rest = remainder(stopped, status.elapsed_s, status.counts)
            senses = {axis.name: axis.sense_at(status.elapsed_s) for axis in stopped.axes if axis.has_play}
            self.plan = plan(machine, rest if rest is not None else own_move({}, {}), senses=senses)
            return self.plan

        self._begin(_player(self, make), machine, going_on=True)
        return True

    def start_manual_move(self) -> bool:
        """Begin to move the chosen axis by hand; return whether it could be begun."""
        machine, index = self._choice.machine, self._choice.index
        if not self._may_move_by_hand():
            return False
        from kivant.app.running.manual_move import ManualMove

        try:
            source = self._manual = ManualMove(machine, index, self.standing)
        except KivantError as error:
            self.noticed(str(error))
            return False
        self._begin(_player(self, lambda: source), machine)
        return True

    def hold_row(self, row: int) -> None:
        """Energise a row of the chosen axis and hold it; a run goes on until it is stopped."""
        machine, index = self._choice.machine, self._choice.index
        if not self._may_move_by_hand():
            return
        from kivant.app.running.by_row import ByRow

        counts = tuple(nearest_step(self.standing.motor_steps(axis)) for axis in machine.axes)
        self._begin(ByRow(machine, index, row, counts, self.address or None), machine)

    def nudge(self, direction: int) -> None:
        """Move the chosen axis by one step on the board."""
        axis = self._choice.axis
        if axis is not None:
            ratio = steps_per_unit(axis)
            here = Fraction(self.standing.of(self._choice.machine).get(axis.name, 0))
            position = (nearest_step(here * ratio) + direction) / ratio
            self.go_to({axis.name: as_decimal(position)})

    def go_to(self, *places: Mapping[str, Decimal]) -> bool:
        """Move axes to one place after the other on the board, from where they stand; return whether it was begun."""
        machine = self._choice.machine
        if not self._may_move_by_hand():
            return False
        here, senses = self.standing.of(machine), dict(self.standing.senses)

        def make() -> Plan:
            routine = Routine(name=NAME, start=here or None, blocks=tuple(Move(to=dict(to)) for to in places))
            self._way = plan(as_written(machine), routine, senses=senses)
            return self._way

        self._begin(_player(self, make), machine)
        return True

    def _may_move_by_hand(self) -> bool:
        if self.active or self._choice.axis is None or self.address_error:
            return False
        wrong = _error_of_machine(self._planning.findings)
        if wrong:
            self.noticed(wrong)
        return not wrong and self._planning.checked(self._choice.machine)

    def pull(self, share: float) -> None:
        """Pull the axis that is moved by hand: a share of its greatest speed, with sign."""
        if self._manual is not None:
            self._manual.pull(share)

    def release(self) -> None:
        """Let the axis go: it brakes."""
        if self._manual is not None and self.streamer is not None:
            self._manual.release()
            self.streamer.wake()

    def stop(self) -> None:
        """Stop: a motion brakes on the ramp, at the second call its power is taken; later ones give up the run."""
        if not self.streamer or not self.active:
            return
        if self.stops.overdue:
            message = "The run was given up. The axes' positions are unknown. Switch off the board's power by hand."
            self.status = replace(self.streamer.status, phase="failed", message=message)
            self._end()
            self.noticed(message)
        else:
            self.streamer.stop()
            self.stops.ask()
        self.changed()

    def _begin(
        self, streamer: Streamer | ByRow, machine: Machine, made: Plan | None = None, *, going_on: bool = False
    ) -> None:
        self.plan, self._way, self._machine, self._stopped = made, made, machine, None
        self.followed = self.standing.copy()
        self.stops = Stops()
        self.going_on = going_on
        self.streamer = streamer
        self.status = self.streamer.status
        self._thread = threading.Thread(target=self.streamer.execute, name="run", daemon=True)
        self.active = True
        self._thread.start()
        self.turned()
        self.changed()

    def forget(self) -> None:
        """Forget what ran, and where axes stand: another machine is open."""
        self.streamer = self.status = self.plan = self._way = self._machine = self._stopped = None
        self.standing = self.followed = Standing()
        self.tools.put({})

    def close(self) -> None:
        """Brake what moves, and wait for its end."""
        if self.active:
            self.stop()
        if self._thread is not None:
            self._thread.join(timeout=5.0)

    # Looking

    def look(self) -> None:
        """Look at the run: what is shown of it is from this moment. It is under way until its end was looked at."""
        if self.streamer is None or self._thread is None or not self.active:
            return
        ended = not self._thread.is_alive()  # asked before the status, which is then the last one
        self.status = self.streamer.status
        if self._machine is not None and self.by_hand:
            self.followed.follow(self._machine, self.status.counts)
        if ended:
            self._end()
        self.changed()

    def _end(self) -> None:
        status = self.status
        assert status is not None
        self.active, self._manual = False, None
        self.tools.shown = status.pointers
        if self._machine is not None:  # moves of one's own begin where the axes stand now
            made = self.plan or self._way
            if made is None:
                self.standing = self.followed
                self.standing.follow(self._machine, status.counts)
            else:
                self.standing.arrive(self._machine, status, made)
        if status.phase == "stopped" and status.power and status.counts:
            self._stopped = self.plan
        if status.phase == "failed" and self.plan is None and not status.counts:
            self.noticed(status.message)
        self.arrived()
        self.turned()

    @property
    def by_hand(self) -> bool:
        """Whether something moves that is not the plan."""
        return self.active and (self.plan is None or self.plan is not self._planning.plan)

    @property
    def progress(self) -> float:
        """Which share of the plan has been run, 0 where nothing runs."""
        if self.status is None or self.plan is None or not self.active or self.plan.duration <= 0:
            return 0.0
        return min(self.status.elapsed_s / self.plan.duration, 1.0)


def _error_of_machine(findings: Sequence[Finding]) -> str:
    errors = [f for f in errors_in(findings) if f.place.routine is None]
    return f"{errors[0].message} {errors[0].remedy}" if errors else ""


def _player(running: Running, make: Callable[[], Plan | ManualMove]) -> Streamer:
    """Return what plays, on the chosen board, what is made on the run's own thread."""
    from kivant.app.running.source import PlanSource  # with the way to a board: not for the start
    from kivant.app.running.streamer import Streamer

    def source() -> MotionSource:
        played = make()
        return PlanSource(played) if isinstance(played, Plan) else played

    return Streamer(source, running.address or None, pointers=running.tools.pointers)
