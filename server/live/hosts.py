"""Sessions under way in this process: what comes is let in, shown at once, and kept every second.

A host owns the source of one session. Its thread asks for samples ten times a second; whoever watches reads
them from a bounded buffer, and further back from the database. A process that is killed loses what was not
yet kept: a second.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from django.conf import settings
from django.db import DatabaseError, connection
from inbetrieb_core.idle import SweepPlan
from inbetrieb_core.live import Controls, Guard, Opened, Source, SweepRun, commanded
from inbetrieb_core.quantities import FloatArray
from inbetrieb_core.runsheet import RunIn, Watched, readings_now, run_in_of, watch

from server.config.problems import Refusal

from .chunks import write_chunk

logger = logging.getLogger(__name__)

_ASKED_EVERY_S, KEPT_EVERY_S = 0.1, 1.0
#: Rows that are held for whoever watches, and at most while the disk takes none.
_BUFFERED, _MOST_UNKEPT = 4096, 60_000
#: Seconds that the watch list looks back.
_WATCHED_S = 16.0
#: Silent for longer than this is told.
_SILENT_S = 3.0
#: Somebody who has commanded nothing for so long holds the key no more. [s]
_HOLDS_KEY_S = 30.0
#: A starter is not held longer than this by a tablet that was dropped. [s]
_STARTER_MOST_S = 15.0
#: Nobody looks and nobody commands: it ends itself. [s]
UNATTENDED_S, LONGEST_S = 1800.0, 12 * 3600.0
MOST_HOSTS = 16


@dataclass(frozen=True)
class Limits:
    """What the watch list compares with: fuel pressure that is wanted, limit of the engine. [kPa, 1/min]"""

    rail_kpa: float
    rev_limit_rpm: float


@dataclass(frozen=True)
class Holder:
    """Who holds the key: a name, a tablet, and when it last commanded. [s]"""

    name: str
    tablet: str
    at_s: float


@dataclass(frozen=True)
class SweepState:
    """A sweep under way or ended."""

    state: str
    share: float
    sentence: str
    start_s: float
    end_s: float | None


@dataclass(frozen=True)
class HostState:
    """Where a session stands.

    Attributes
    ----------
    time_s : float
        Of its newest sample. [s]
    rows, kept : int
        That came, and of them in the database.
    lag_s : float
        Age of its newest sample. [s]
    silent_s : float
        How long nothing came with the key on; 0 where it does. [s]
    readings : dict of str to float
        What the steps of the run sheet ask for, by its key, as far as it can be read.
    """

    time_s: float
    rows: int
    kept: int
    lag_s: float
    silent_s: float
    controls: Controls
    held_by: str
    tablet: str
    problems: tuple[str, ...]
    watch: tuple[Watched, ...]
    readings: dict[str, float]
    run_in: RunIn | None
    sweep: SweepState | None


class Host:
    """One session under way.

    Parameters
    ----------
    session_id : int
    source : Source
        Not opened yet.
    limits : Limits
    end : callable
        Called with a reason once it ends by itself.
    clock : callable
        Of the wall. [s]
    """

    def __init__(
        self, session_id: int, source: Source, opened: Opened, limits: Limits, end: Callable[[str], None],
        clock: Callable[[], float] = time.monotonic,
    ) -> None:  # fmt: skip
        self.session_id = session_id
        self.opened = opened
        self._source, self._limits, self._end, self._clock = source, limits, end, clock
        self._guard = Guard(len(opened.channels))
        self._lock = threading.RLock()
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self._buffer = np.empty((0, len(opened.channels)))
        self._unkept = self._buffer
        #: Rows before the buffer, and in the database.
        self._before = self.kept = 0
        self.controls = Controls()
        self._holder: Holder | None = None
        self._sweep: SweepRun | None = None
        self._frees_timing = False
        self._counted_s = self._outside_s = 0.0
        self._run_in: RunIn | None = None
        self._counts_run_in = False
        self._lost = 0
        self._trouble = ""
        now = clock()
        self._began_s = self._heard_s = self._kept_s = self._attended_s = now
        self._starter_s: float | None = None

    # --- its thread -------------------------------------------------------------------

    def start(self) -> None:
        """Ask for samples in a thread of its own."""
        self._thread = threading.Thread(
            target=self._run_apart, name=f"live-{self.session_id}", daemon=True
        )
        self._thread.start()

    def _run_apart(self) -> None:
        """Run in a thread of its own, with a database connection of its own."""
        try:
            self.run()
        finally:
            connection.close()

    def run(self) -> None:
        """Ask for samples until it is closed, or ends by itself."""
        before = self._clock()
        while not self._stop.wait(_ASKED_EVERY_S):
            now = self._clock()
            passed, before = now - before, now
            try:
                self.pump(passed)
                reason = self._over(now)
            except Exception as error:
                logger.exception("live session %s", self.session_id, exc_info=error)
                reason = "The source broke down; what it had sent is kept."
            if reason:
                self._end(reason)
                return

    def _over(self, now_s: float) -> str:
        """Return why it ends by itself; empty where it goes on."""
        if now_s - self._attended_s > UNATTENDED_S:
            return "Nobody looked for half an hour."
        if now_s - self._began_s > LONGEST_S:
            return "Twelve hours are the most that one session keeps."
        return ""

    def pump(self, passed_s: float) -> None:
        """Let in what came in a time on the wall, and keep it where a second has passed. [s]"""
        with self._lock:
            now = self._clock()
            if self._starter_s is not None and now - self._starter_s > _STARTER_MOST_S:
                self._set(replace(self.controls, starter=False))
            # Where time passes quicker a sweep is still driven as finely.
            parts = self.controls.speed
            for _ in range(parts):
                rows = self._guard.take(self._source.samples(passed_s / parts))
                if len(rows):
                    self._heard_s = now
                    self._admit(rows)
                    self._drive(rows)
            if now - self._kept_s >= KEPT_EVERY_S:
                self._kept_s = now
                self.keep()

    def _admit(self, rows: FloatArray) -> None:
        before = self._buffer[-1:]
        self._count(np.concatenate([before, rows]))
        self._unkept = np.concatenate([self._unkept, rows])
        joined = np.concatenate([self._buffer, rows])
        over = max(0, len(joined) - _BUFFERED)
        self._buffer = joined[over:].copy() if over else joined
        self._before += over

    def _count(self, rows: FloatArray) -> None:
        """Count the run-in on."""
        if not self._counts_run_in or len(rows) < 2:
            return
        place = self.opened.channels.index("rpm")
        found = run_in_of(rows[:, 0], rows[:, place], before_s=self._counted_s)
        self._counted_s = found.counted_s
        self._outside_s += found.outside_s
        self._run_in = replace(found, outside_s=self._outside_s)

    def _drive(self, rows: FloatArray) -> None:
        """Hold the valve where a sweep wants it."""
        if self._sweep is None or self._sweep.state != "running":
            return
        row = self._named(rows[-1])
        duty = self._sweep.duty_pct(row["time_s"], row["rpm"])
        if duty is None:
            self._leave_sweep()
        elif duty != self.controls.idle_valve_pct:
            self._set(replace(self.controls, idle_valve_pct=duty))

    def _leave_sweep(self) -> None:
        """Give valve and spark back to the controller."""
        locked = None if self._frees_timing else self.controls.lock_timing_deg
        self._frees_timing = False
        self._set(replace(self.controls, idle_valve_pct=None, lock_timing_deg=locked))

    def _named(self, row: FloatArray) -> dict[str, float]:
        return dict(zip(self.opened.channels, row.tolist(), strict=True))

    def keep(self) -> None:
        """Write what is not kept yet; a disk that takes nothing is asked again."""
        with self._lock:
            if not len(self._unkept):
                return
            try:
                write_chunk(self.session_id, self.kept, self._unkept)
            except DatabaseError as error:
                logger.exception("live session %s is not kept", self.session_id, exc_info=error)
                self._trouble = (
                    "Nothing can be written just now: make room on the disk. It is tried again."
                )
                if len(self._unkept) > _MOST_UNKEPT:
                    self._lost += len(self._unkept) - _MOST_UNKEPT
                    self._unkept = self._unkept[-_MOST_UNKEPT:]
                return
            self._trouble = ""
            self.kept += len(self._unkept)
            self._unkept = self._unkept[:0]

    def close(self) -> None:
        """End: the source is closed, and everything that came is kept."""
        self._stop.set()
        if self._thread is not None and self._thread is not threading.current_thread():
            self._thread.join(timeout=5.0)
        with self._lock:
            self._source.close()
            self.keep()

    # --- what is commanded ------------------------------------------------------------

    def begin_with(self, given: Mapping[str, Any]) -> None:
        """Set what holds before anybody commands.

        Raises
        ------
        InputRefused
            If it cannot be.
        """
        self._set(commanded(self.controls, given))

    def command(
        self, name: str, tablet: str, given: Mapping[str, Any], *, take: bool = False
    ) -> None:
        """Set what somebody commands.

        Raises
        ------
        Refusal
            409 where somebody else holds the key.
        InputRefused
            If it cannot be.
        """
        with self._lock:
            now = self._clock()
            self._attended_s = now
            after = commanded(self.controls, given)
            # The switch that kills it is everybody's.
            if given.get("injection", True) or given.get("ignition", True):
                self._hold(name, tablet, now, take=take)
            if self._sweep is not None and "idle_valve_pct" in given:
                self._end_sweep("The valve was moved by hand: the sweep ends there.")
                after = commanded(self.controls, given)
            self._set(after)

    def _hold(self, name: str, tablet: str, now_s: float, *, take: bool) -> None:
        holder = self._holder
        is_other = holder is not None and (holder.name, holder.tablet) != (name, tablet)
        takes = take and holder is not None and holder.name == name
        if holder is not None and is_other and not takes and now_s - holder.at_s < _HOLDS_KEY_S:
            where = " on another tablet" if holder.name == name else ""
            wait = _HOLDS_KEY_S - (now_s - holder.at_s)
            raise Refusal(
                409,
                "Somebody else holds the key",
                f"{holder.name} holds the key{where}. It is free once nothing was commanded for {wait:.0f} s more; "
                "the kill switch works for everybody.",
                held_by=holder.name,
            )
        self._holder = Holder(name, tablet, now_s)

    def _set(self, controls: Controls) -> None:
        self._source.command(controls)
        if controls.starter != self.controls.starter:
            self._starter_s = self._clock() if controls.starter else None
        self.controls = controls

    def sweep(self, name: str, tablet: str, plan: SweepPlan) -> None:
        """Step the idle valve through its range.

        Raises
        ------
        InputRefused
            If the engine does not run, or the plan cannot be driven.
        Refusal
            409 where somebody else holds the key, or a sweep is under way.
        """
        with self._lock:
            if self._sweep is not None and self._sweep.state == "running":
                raise Refusal(
                    409, "A sweep is under way", "Wait for its end, or move the valve to end it."
                )
            self._hold(name, tablet, self._clock(), take=False)
            row = self._named(self._buffer[-1]) if len(self._buffer) else {}
            self._sweep = SweepRun(
                plan, row.get("time_s", 0.0), row.get("idle_valve_pct", 0.0), row.get("rpm", 0.0)
            )
            if self.controls.lock_timing_deg is None and np.isfinite(
                spark := row.get("spark_deg", np.nan)
            ):
                # A spark that follows speed would be swept with the valve.
                self._set(replace(self.controls, lock_timing_deg=round(spark)))
                self._frees_timing = True

    def _end_sweep(self, sentence: str) -> None:
        if self._sweep is not None and self._sweep.state == "running":
            self._sweep = None
            self._trouble = sentence
            self._leave_sweep()

    def count_run_in(self, *, on: bool) -> None:
        """Begin to count the run-in, or go no further."""
        with self._lock:
            self._attended_s = self._clock()
            self._counts_run_in = on
            if on and self._run_in is None:
                empty = np.empty(0)
                self._run_in = run_in_of(empty, empty)

    def light(self) -> tuple[float, float]:
        """Return what a timing light shows and what is commanded. [°, °]

        Raises
        ------
        Refusal
            422 where the source has no light.
        """
        read = getattr(self._source, "light", None)
        if read is None:
            raise Refusal(
                422, "Input refused", "Read the mark with a light on the engine, and type it."
            )
        with self._lock:
            found: tuple[float, float] = read()
            return found

    # --- what is seen -----------------------------------------------------------------

    def attend(self) -> None:
        """Note that somebody looks."""
        self._attended_s = self._clock()

    @property
    def rows(self) -> int:
        """Rows that came."""
        return self._before + len(self._buffer)

    def since(self, row: int) -> FloatArray | None:
        """Return the rows from one on; None where they are not in the buffer any more."""
        with self._lock:
            if row < self._before:
                return None
            return self._buffer[row - self._before :]

    def newest_rows(self, since_s: float) -> int:
        """Return the number of the first row at most so long before the newest. [s]"""
        with self._lock:
            if not len(self._buffer):
                return self.rows
            first = int(np.searchsorted(self._buffer[:, 0], self._buffer[-1, 0] - since_s))
            return self._before + first

    def unkept(self) -> FloatArray:
        """Return the rows that are not in the database yet."""
        with self._lock:
            return self._unkept.copy()

    def state(self) -> HostState:
        """Return where it stands."""
        with self._lock:
            now = self._clock()
            age = now - self._heard_s
            holder = self._holder
            is_held = holder is not None and now - holder.at_s < _HOLDS_KEY_S
            time_s = float(self._buffer[-1, 0]) if len(self._buffer) else 0.0
            sweep = self._sweep
            return HostState(
                time_s, self.rows, self.kept, age if self.controls.key else 0.0,
                age if self.controls.key and age > _SILENT_S else 0.0, self.controls,
                holder.name if holder is not None and is_held else "",
                holder.tablet if holder is not None and is_held else "",
                self._problems(), self._watch(), self._readings(), self._run_in,
                None if sweep is None else SweepState(sweep.state, sweep.share(time_s), sweep.sentence, sweep.begin_s, sweep.end_s),
            )  # fmt: skip

    def _problems(self) -> tuple[str, ...]:
        lost = f"{self._lost} samples could not be kept." if self._lost else ""
        return tuple(s for s in (self._trouble, lost, *self._guard.problems) if s)

    def _readings(self) -> dict[str, float]:
        if not self.controls.key:
            return {}
        found = readings_now(self._columns(self._buffer))
        if self._run_in is not None:
            found["counted_min"] = round(self._run_in.counted_s / 60.0, 1)
        return found

    def _columns(self, rows: FloatArray) -> dict[str, FloatArray]:
        return {name: rows[:, i] for i, name in enumerate(self.opened.channels)}

    def _watch(self) -> tuple[Watched, ...]:
        if not len(self._buffer) or not self.controls.key:
            return ()
        first = int(np.searchsorted(self._buffer[:, 0], self._buffer[-1, 0] - _WATCHED_S))
        channels = self._columns(self._buffer[first:])
        target = channels.get("idle_target_rpm")
        idle = float(target[-1]) if target is not None and np.isfinite(target[-1]) else 1000.0
        return watch(
            channels, idle_rpm=idle, rail_kpa=self._limits.rail_kpa, rev_limit_rpm=self._limits.rev_limit_rpm
        )  # fmt: skip


_hosts: dict[int, Host] = {}
_hosts_lock = threading.Lock()


def host_of(session_id: int) -> Host | None:
    """Return the host of a session in this process; None where there is none."""
    return _hosts.get(session_id)


def room_for_one_more() -> bool:
    """Say whether this process takes another session."""
    return len(_hosts) < MOST_HOSTS


def begin(host: Host) -> None:
    """Let a session run."""
    with _hosts_lock:
        _hosts[host.session_id] = host
    if not settings.TASKS_AT_ONCE:  # a test asks for samples itself
        host.start()


def drop(session_id: int) -> Host | None:
    """Take a session out of this process, and return its host."""
    with _hosts_lock:
        return _hosts.pop(session_id, None)
