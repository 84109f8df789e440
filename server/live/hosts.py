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
from dataclasses import replace
from typing import Any

import numpy as np
from django.conf import settings
from django.db import DatabaseError, connection
from inbetrieb_core.idle import SweepPlan
from inbetrieb_core.live import (
    Controls,
    Guard,
    Opened,
    Source,
    SourceWithLight,
    SweepRun,
    commanded,
    is_kill,
)
from inbetrieb_core.quantities import FloatArray
from inbetrieb_core.runsheet import RunInClock, Watched, readings_now, watch

from server.config.problems import Refusal

from .chunks import write_chunk
from .holding import Key
from .rows import Rows
from .state import HostState, Limits, SweepState

logger = logging.getLogger(__name__)

#: A source is asked, and what came is kept, so often. [s]
_ASKED_EVERY_S, _KEPT_EVERY_S = 0.1, 1.0
#: The watch list looks so far back. [s]
_WATCHED_S = 16.0
#: Silent for longer than this is told. [s]
_SILENT_S = 3.0
#: A starter is not held longer than this by a tablet that was dropped. [s]
_STARTER_MOST_S = 15.0
#: Nobody looks and nobody commands: it ends itself. [s]
_UNATTENDED_S, _LONGEST_S = 1800.0, 12 * 3600.0
#: Sessions that one process takes.
MOST_HOSTS = 16


class Host:
    """One session under way.

    Parameters
    ----------
    session_id : int
    source : Source
    opened : Opened
        What it said as it was opened.
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
        self._rows = Rows(len(opened.channels))
        self._key = Key()
        self._run_in = RunInClock()
        self._sweep: SweepRun | None = None
        self._frees_timing = False
        self._trouble = ""
        self.controls = Controls()
        now = clock()
        self._began_s = self._heard_s = self._kept_s = self._attended_s = self._asked_s = now
        self._starter_s: float | None = None
        #: What was read before the key was last turned on is not offered as read now.
        self._key_on_row = 0

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
        while not self._stop.wait(_ASKED_EVERY_S):
            try:
                self._catch_up()
                reason = self._over(self._asked_s)
            except Exception as error:
                logger.exception("live session %s", self.session_id, exc_info=error)
                reason = "The source broke down; what it had sent is kept."
            if reason:
                self._end(reason)
                return

    def _catch_up(self) -> None:
        """Let in what came until now."""
        with self._lock:
            now = self._clock()
            passed, self._asked_s = now - self._asked_s, now
            self.pump(passed)

    def _end_what_was_commanded(self) -> None:
        """Let in what passed under the command before: a starter pressed and let go between two askings has turned.

        Whoever asks for samples by hand says himself how much time passed.
        """
        if self._thread is not None:
            self._catch_up()

    def _over(self, now_s: float) -> str:
        """Return why it ends by itself; empty where it goes on."""
        if now_s - self._attended_s > _UNATTENDED_S:
            return "Nobody looked for half an hour."
        if now_s - self._began_s > _LONGEST_S:
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
            if now - self._kept_s >= _KEPT_EVERY_S:
                self._kept_s = now
                self.keep()

    def _admit(self, rows: FloatArray) -> None:
        self._rows.admit(rows)
        channels = self._columns(rows)
        if "rpm" in channels:
            self._run_in.count(channels["time_s"], channels["rpm"])

    def _drive(self, rows: FloatArray) -> None:
        """Hold the valve where a sweep wants it."""
        if self._sweep is None or not self._sweep.is_running:
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
            try:
                self._rows.keep(lambda first, rows: write_chunk(self.session_id, first, rows))
            except DatabaseError as error:
                logger.exception("live session %s is not kept", self.session_id, exc_info=error)
                self._trouble = (
                    "Nothing can be written just now: make room on the disk. It is tried again."
                )
            else:
                self._trouble = ""

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
            self._attended_s = self._clock()
            after = commanded(self.controls, given)
            self._end_what_was_commanded()
            if not is_kill(given):
                self._key.take(name, tablet, self._attended_s, over=take)
            if "idle_valve_pct" in given and self._sweep is not None and self._sweep.is_running:
                self._sweep.moved(self._time_s)
                self._leave_sweep()
                after = commanded(self.controls, given)
            self._set(after)

    def _set(self, controls: Controls) -> None:
        self._source.command(controls)
        if controls.starter != self.controls.starter:
            self._starter_s = self._clock() if controls.starter else None
        if controls.key and not self.controls.key:
            self._key_on_row = self._rows.count
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
            if self._sweep is not None and self._sweep.is_running:
                raise Refusal(
                    409, "A sweep is under way", "Wait for its end, or move the valve to end it."
                )
            self._key.take(name, tablet, self._clock())
            newest = self._rows.newest
            row = {} if newest is None else self._named(newest)
            self._sweep = SweepRun(
                plan, self._time_s, row.get("idle_valve_pct", 0.0), row.get("rpm", 0.0)
            )
            spark = row.get("spark_deg", np.nan)
            if self.controls.lock_timing_deg is None and np.isfinite(spark):
                # A spark that follows speed would be swept with the valve.
                self._set(replace(self.controls, lock_timing_deg=round(spark)))
                self._frees_timing = True

    def count_run_in(self, *, on: bool) -> None:
        """Begin to count the run-in, or go no further."""
        with self._lock:
            self._attended_s = self._clock()
            self._end_what_was_commanded()
            self._run_in.switch(on=on)

    def light(self) -> tuple[float, float]:
        """Return what a timing light shows and what is commanded. [°, °]

        Raises
        ------
        Refusal
            422 where the source has no light.
        """
        if not isinstance(self._source, SourceWithLight):
            raise Refusal(
                422, "Input refused", "Read the mark with a light on the engine, and type it."
            )
        with self._lock:
            return self._source.light()

    # --- what is seen -----------------------------------------------------------------

    def attend(self) -> None:
        """Note that somebody looks."""
        self._attended_s = self._clock()

    @property
    def rows(self) -> int:
        """Rows that came."""
        return self._rows.count

    def since(self, row: int) -> FloatArray | None:
        """Return the rows from one on; None where they are not in memory any more."""
        with self._lock:
            return self._rows.since(row)

    def row_before(self, seconds: float) -> int:
        """Return the number of the first row at most so long before the newest. [s]"""
        with self._lock:
            return self._rows.number_before(seconds)

    @property
    def _time_s(self) -> float:
        newest = self._rows.newest
        return 0.0 if newest is None else float(newest[0])

    def state(self) -> HostState:
        """Return where it stands."""
        with self._lock:
            now = self._clock()
            age = now - self._heard_s if self.controls.key else 0.0
            holder = self._key.holder(now)
            return HostState(
                self._time_s, self._rows.count, self._rows.kept, age, age if age > _SILENT_S else 0.0, self.controls,
                "" if holder is None else holder.name, "" if holder is None else holder.tablet, self._problems(),
                self._watch(), self._readings(), self._run_in.now, self._sweep_state(),
            )  # fmt: skip

    def _sweep_state(self) -> SweepState | None:
        sweep = self._sweep
        if sweep is None:
            return None
        share = sweep.share(self._time_s)
        return SweepState(sweep.state, share, sweep.sentence, sweep.begin_s, sweep.end_s)

    def _problems(self) -> tuple[str, ...]:
        lost = f"{self._rows.lost} samples could not be kept." if self._rows.lost else ""
        return tuple(s for s in (self._trouble, lost, *self._guard.problems) if s)

    def _readings(self) -> dict[str, float | None]:
        done = self._run_in.now
        counted_min = None if done is None else round(done.counted_s / 60.0, 1)
        return {**readings_now(self._columns(self._since_key_on())), "counted_min": counted_min}

    def _since_key_on(self, at_most_s: float | None = None) -> FloatArray:
        """Return what came since the key was turned on, and is in memory; nothing with the key off. [s]"""
        held = self._rows.held
        first = self._key_on_row if self.controls.key else self._rows.count
        if at_most_s is not None:
            first = max(first, self._rows.number_before(at_most_s))
        return held[max(0, first - (self._rows.count - len(held))) :]

    def _columns(self, rows: FloatArray) -> dict[str, FloatArray]:
        return {name: rows[:, i] for i, name in enumerate(self.opened.channels)}

    def _watch(self) -> tuple[Watched, ...]:
        rows = self._since_key_on(_WATCHED_S)
        if not len(rows):
            return ()
        limits = self._limits
        return watch(
            self._columns(rows), rail_kpa=limits.rail_kpa, rev_limit_rpm=limits.rev_limit_rpm
        )


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
