"""Injectors and supply in an engine: flows, reports, drivers, modes, pump, margin, prime, decay."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pint
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import choose_axes, generate, refit_injectors
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.injectors import (
    INJECTORS,
    DeadTimeCurve,
    DeadTimeField,
    flow_of_petrol,
    judge_driver,
    judge_report,
    volume_flow_cm3_min,
)
from inbetrieb_core.sentences import plain
from inbetrieb_core.supply import (
    PUMPS,
    DeadTimeEntry,
    InjectorEntry,
    PumpFlow,
    ReportEntry,
    SupplyEntry,
    full_load,
    injection_modes,
    injector_sheet,
    judge_injectors,
    supply_sheet,
)
from inbetrieb_core.supply.full_load import duty_lines, injector_power_kw, power_kw

from tests.examples import few

from .engines import FOUR, ROTORS, plausible_engines

AXIS_V = (8.0, 10.0, 12.0, 14.0, 16.0)
DATA = DeadTimeEntry((8.0, 12.0, 14.0), ((2.4, 1.2, 0.9),))
ENTRY = InjectorEntry("Port injectors", 4, 390.0, dead_time=DATA, provenance="data_sheet")
TURBO = replace(FOUR, induction="boosted", boost_kpa=100.0, injectors=InjectorSet(4, 720.0))


def problems_of(case, action):
    with case.assertRaises(InputRefused) as refused:
        action()
    return {p.field: p.sentence for p in refused.exception.problems}


class UnitTests(SimpleTestCase):
    def test_flows_by_pint(self):
        ureg = pint.UnitRegistry()
        density = ureg.Quantity(745.0, "kg/m^3")
        for flow, ours, theirs in ((38.4, "lb/h", "lb/hour"), (4.8, "g/s", "g/s")):
            expected = (ureg.Quantity(flow, theirs) / density).to("cm^3/min").magnitude
            self.assertAlmostEqual(volume_flow_cm3_min(flow, ours, 745.0), expected, places=6)

    def test_a_lighter_fluid_flows_faster(self):
        """Orifice: Q ∝ 1/√ρ, so n-heptane reads about 4 % more than petrol."""
        self.assertAlmostEqual(flow_of_petrol(100.0, 684.0), 100.0 * math.sqrt(684 / 745), places=9)
        self.assertEqual(flow_of_petrol(100.0, 745.0), 100.0)

    def test_entry_reduces_unit_fluid_and_pressure_to_petrol(self):
        pounds = replace(ENTRY, flow=38.4, flow_unit="lb/h")
        self.assertAlmostEqual(pounds.rated_cm3_min(), 390.0, delta=0.5)
        report = ReportEntry((400.0, 400.0, 400.0, 400.0), pressure_kpa=400.0)
        self.assertAlmostEqual(
            replace(ENTRY, report=report).rated_cm3_min(), 400.0 * math.sqrt(0.75), places=6
        )


class ReportTests(SimpleTestCase):
    @given(
        st.lists(st.floats(300.0, 500.0), min_size=2, max_size=6).flatmap(
            lambda flows: st.tuples(
                st.just(flows),
                st.lists(st.floats(92.0, 108.0), min_size=len(flows), max_size=len(flows)),
            )
        )
    )
    def test_the_placing_is_the_best_of_all(self, both):
        flows, needs = both
        report = judge_report(flows, len(flows), needs)
        relative = np.array(flows) / np.mean(flows)
        wanted = np.array(needs) / np.mean(needs)

        def cost(order):
            return sum((relative[i] / wanted[c] - 1.0) ** 2 for i, c in enumerate(order))

        best = min(cost(order) for order in itertools.permutations(range(len(flows))))
        found = cost([place.cylinder - 1 for place in report.placings])
        self.assertLessEqual(found, best + 1e-12)

    def test_spread_pair_and_level(self):
        report = judge_report([400.0, 404.0, 380.0, 402.0], 4)
        self.assertAlmostEqual(report.spread_pct, 100.0 * 24.0 / 396.5, places=9)
        self.assertEqual(report.worst_pair, (2, 3))
        self.assertEqual(report.level, "mismatched")
        self.assertEqual(judge_report([400.0, 401.0, 399.0], 3).level, "matched")

    def test_refusals(self):
        cases = [
            ([400.0, 400.0, 400.0], 4, None, "report.flows", "1 missing"),
            ([400.0] * 5, 4, None, "report.flows", "1 too many"),
            ([400.0, 0.0, 400.0, 400.0], 4, None, "report.flows", "Injector 2"),
            ([400.0, math.nan, 400.0, 400.0], 4, None, "report.flows", "Injector 2"),
            ([400.0] * 4, 4, [100.0] * 3, "report.needs_pct", "4"),
            ([400.0] * 4, 4, [100.0, 100.0, 100.0, 900.0], "report.needs_pct", "Cylinder 4"),
        ]
        for flows, count, needs, field, words in cases:
            with self.subTest(words=words, field=field):
                found = problems_of(self, lambda f=flows, c=count, n=needs: judge_report(f, c, n))
                self.assertIn(words, plain(found[field]))


class DriverTests(SimpleTestCase):
    def test_resistance_classes(self):
        """About 2–3 Ω needs a limited current, about 12–16 Ω does not (common practice)."""
        for ohm, driver, kind, level in (
            (2.4, "plain", "low", "stop"), (2.4, "current_limiting", "low", "fits"),
            (2.4, "unknown", "low", "attention"), (14.0, "plain", "high", "fits"),
            (6.0, "plain", "between", "attention"),
        ):  # fmt: skip
            with self.subTest(ohm=ohm, driver=driver):
                judged = judge_driver(ohm, driver)
                self.assertEqual((judged.resistance_class, judged.level), (kind, level))
        series = judge_driver(2.4, "plain").series_ohm
        self.assertLess(14.2 / (2.4 + series), 1.7)
        self.assertIn("open", problems_of(self, lambda: judge_driver(1e6))["resistance_ohm"])


class FullLoadTests(SimpleTestCase):
    def test_duty_is_air_over_flow(self):
        """Air drawn, over mixture, over what one injector passes: by hand."""
        point = full_load(FOUR, 6000.0)
        fuel_cm3_min = point.fuel_gps * 60.0 / FOUR.fuel.density_kg_m3 * 1000.0
        opened = fuel_cm3_min / (4 * 390.0)
        dead = FOUR.injectors.dead_time.on_axis((14.0,))[0][0] * 6000.0 / 1200.0 / 100.0
        self.assertAlmostEqual(point.duty_pct / 100.0, opened + dead, places=6)
        self.assertAlmostEqual(point.fuel_gps * 14.7 * point.mixture, point.air_gps, places=6)

    def test_more_boost_more_duty(self):
        lines = duty_lines(TURBO)
        self.assertEqual([line.boost_kpa for line in lines], [0.0, 50.0, 100.0])
        for low, high in itertools.pairwise(lines):
            self.assertTrue(all(a < b for a, b in zip(low.duty_pct, high.duty_pct, strict=True)))

    def test_a_rail_that_cannot_push_has_no_duty(self):
        weak = replace(TURBO, manifold_referenced=False, rail_pressure_kpa=80.0)
        self.assertTrue(all(d is None for d in duty_lines(weak, [100.0])[0].duty_pct))
        self.assertEqual(injector_power_kw(weak, 85.0), 0.0)
        self.assertEqual(judge_injectors(weak).level, "implausible")

    def test_power_of_a_fuel_flow(self):
        """A fuel rate of 0.5 lb per horsepower-hour, natural, petrol (common practice)."""
        pound_per_hour = 453.592 / 3600.0
        self.assertAlmostEqual(power_kw(FOUR, pound_per_hour) / 0.7457, 2.0, delta=0.01)
        blend = replace(FOUR, ethanol_volume_share=0.85)
        self.assertAlmostEqual(
            power_kw(blend, 1.0) / power_kw(FOUR, 1.0),
            blend.fuel.stoichiometric_afr / 14.7,
            places=6,
        )

    @settings(max_examples=few(40))
    @given(plausible_engines())
    def test_power_grows_with_the_injector_and_every_figure_is_finite(self, spec):
        larger = replace(
            spec, injectors=replace(spec.injectors, flow_cm3_min=2 * spec.injectors.flow_cm3_min)
        )
        small, large = injector_power_kw(spec, 85.0), injector_power_kw(larger, 85.0)
        self.assertTrue(math.isfinite(small))
        self.assertGreaterEqual(large, small)


class ModeTests(SimpleTestCase):
    def modes(self, signals, spec=FOUR):
        return {m.key: m for m in injection_modes(spec, signals, 0.7)}

    def test_without_a_cam_no_sequential_injection(self):
        """Common practice, no source."""
        self.assertEqual(
            {k for k, m in self.modes("crank").items() if m.allowed},
            {"semi_sequential", "paired", "simultaneous_twice", "simultaneous"},
        )
        self.assertEqual(
            {k for k, m in self.modes("speed_only").items() if m.allowed},
            {"simultaneous_twice", "simultaneous"},
        )
        self.assertTrue(all(m.allowed for m in self.modes("crank_and_cam").values()))
        self.assertIn("cam signal", self.modes("crank")["sequential"].sentence)

    def test_one_injection_instead_of_two_doubles_the_idle_pulse(self):
        modes = self.modes("crank_and_cam")
        once, twice = modes["sequential"], modes["paired"]
        self.assertAlmostEqual(once.idle_open_ms, 2 * twice.idle_open_ms, places=9)
        self.assertLess(once.dead_time_share_pct, twice.dead_time_share_pct)
        self.assertLess(once.duty_at_limit_pct, twice.duty_at_limit_pct)

    def test_a_rotor_has_modes_of_its_own(self):
        self.assertEqual(set(self.modes("crank", ROTORS)), {"sequential", "simultaneous"})


class DeadTimeFieldTests(SimpleTestCase):
    FIELD = DeadTimeField(
        (300.0, 400.0),
        (DeadTimeCurve((8.0, 14.0), (2.0, 0.8)), DeadTimeCurve((8.0, 14.0), (2.4, 1.0))),
    )

    def test_is_blended_over_pressure_and_held_beyond(self):
        curve, outside = self.FIELD.at_pressure(350.0)
        self.assertEqual((curve.dead_time_ms, outside), ((2.2, 0.9), False))
        held, outside = self.FIELD.at_pressure(500.0)
        self.assertEqual((held.dead_time_ms, outside), ((2.4, 1.0), True))

    def test_falls_with_voltage_for_every_shipped_injector(self):
        """Several times longer at 7 V than at 14 V (common practice, no source)."""
        for item in INJECTORS:
            curve = DeadTimeCurve(item.voltage_v, item.dead_time_ms)
            times = curve.on_axis((7.0, 9.0, 11.0, 13.0, 14.0))[0]
            self.assertEqual(list(times), sorted(times, reverse=True))
            self.assertGreater(times[0] / times[-1], 2.0)


class EntryTests(SimpleTestCase):
    def test_absurd_values_get_a_sentence_on_their_field(self):
        rising = DeadTimeEntry((8.0, 12.0, 14.0), ((2.4, 1.2, 1.3),))
        cases = [
            ({"name": " "}, "name", "which injectors"),
            ({"count": 0}, "count", "between 1 and 32"),
            ({"flow": 0.0}, "flow", "unit"),
            ({"flow": math.nan}, "flow", "unit"),
            ({"flow": 390.0, "flow_unit": "g/s"}, "flow", "31409 cm³/min"),
            ({"flow": 39000.0}, "flow", "39000"),
            ({"rated_pressure_kpa": 43.0}, "rated_pressure_kpa", "If 43 is psi, enter 296 kPa"),
            ({"rated_pressure_kpa": 3.0}, "rated_pressure_kpa", "If 3 is bar, enter 300 kPa"),
            ({"fluid": "own"}, "fluid_density_kg_m3", "density"),
            ({"fluid": "own", "fluid_density_kg_m3": 1.0}, "fluid_density_kg_m3", "between"),
            ({"dead_time": rising}, "dead_time", "rises at 14 V"),
            ({"dead_time": DeadTimeEntry((8.0, 14.0), ((2400.0, 900.0),))}, "dead_time", "microseconds"),
            ({"dead_time": DeadTimeEntry((8.0,), ((2.0, 1.0),))}, "dead_time", "one value for each voltage"),
            ({"dead_time": DeadTimeEntry((14.0, 8.0), ((1.0, 2.0),))}, "dead_time", "must rise"),
            ({"dead_time": DeadTimeEntry((8.0, 14.0), ((2.0, 1.0), (2.1, 1.1)), (400.0, 300.0))}, "dead_time", "pressures"),
            ({"dead_time": DeadTimeEntry(tuple(range(4, 60)), (tuple([1.0] * 56),))}, "dead_time", "At most"),
            ({"report": ReportEntry((390.0, 391.0, 392.0))}, "report.flows", "1 missing"),
            ({"report": ReportEntry((390.0,) * 4, pressure_kpa=3.0)}, "report.pressure_kpa", "between"),
            ({"resistance_ohm": 0.0}, "resistance_ohm", "between"),
            ({"smallest_open_ms": -1.0}, "smallest_open_ms", "between"),
            ({"injections_per_cycle": 0}, "injections_per_cycle", "between"),
            ({"target_power_kw": math.inf}, "target_power_kw", "between"),
        ]  # fmt: skip
        for changes, field, words in cases:
            with self.subTest(field=field, words=words):
                found = problems_of(self, lambda c=changes: replace(ENTRY, **c).check())
                self.assertIn(words, plain(found[field]))

    def test_all_problems_are_said_at_once(self):
        found = problems_of(
            self, lambda: replace(ENTRY, name="", count=99, resistance_ohm=-1.0).check()
        )
        self.assertEqual(set(found), {"name", "count", "resistance_ohm"})

    def test_supply(self):
        good = SupplyEntry("Pump", PUMPS[0].readings)
        two = (PumpFlow(13.5, 200.0, 130.0), PumpFlow(13.5, 400.0, 140.0))
        swapped = (PumpFlow(12.0, 200, 150), PumpFlow(12.0, 400, 120), PumpFlow(13.5, 200, 130), PumpFlow(13.5, 400, 100))  # fmt: skip
        cases = [
            ({"name": ""}, "name", "pump"),
            ({"rail_pressure_kpa": 43.0}, "rail_pressure_kpa", "296 kPa"),
            ({"rail_pressure_kpa": 3.0}, "rail_pressure_kpa", "300 kPa"),
            ({"voltage_v": 99.0}, "voltage_v", "6 and 18"),
            ({"readings": ()}, "pump.readings", "two pressures"),
            ({"readings": two[:1]}, "pump.readings", "at least two"),
            ({"readings": two}, "pump.readings", "must fall with pressure"),
            ({"readings": swapped}, "pump.readings", "swapped"),
            (
                {"readings": (PumpFlow(13.5, 2.0, 130.0), PumpFlow(13.5, 4.0, 120.0))},
                "pump.readings",
                "bar",
            ),
            ({"readings": (PumpFlow(math.nan, 200.0, 1.0),)}, "pump.readings", "no reading"),
            ({"line_loss_kpa": -5.0}, "line.loss_kpa", "loses"),
        ]
        for changes, field, words in cases:
            with self.subTest(field=field, words=words):
                found = problems_of(self, lambda c=changes: replace(good, **c).check())
                self.assertIn(words, plain(found[field]))


class SheetTests(SimpleTestCase):
    def test_figures_belong_together(self):
        sheet = injector_sheet(FOUR, ENTRY, AXIS_V)
        self.assertAlmostEqual(
            sheet.idle_open_ms / sheet.smallest_pulse_ms,
            1 - sheet.dead_time_share_pct / 100,
            places=9,
        )
        self.assertAlmostEqual(
            sheet.rail_gps, sheet.rail_cm3_min * sheet.fuel_density_kg_m3 / 60_000, places=9
        )
        self.assertEqual(
            [c.dead_time_ms for c in sheet.dead_time if c.origin == "data"], [2.4, 1.2, 0.9]
        )
        self.assertEqual(sheet.level, "good")
        higher = injector_sheet(replace(FOUR, rail_pressure_kpa=400.0), ENTRY, AXIS_V)
        self.assertAlmostEqual(higher.rail_cm3_min / sheet.rail_cm3_min, math.sqrt(4 / 3), places=9)

    def test_the_worst_is_said_first(self):
        entry = replace(
            ENTRY,
            resistance_ohm=2.0,
            driver="plain",
            report=ReportEntry((390.0, 360.0, 391.0, 392.0)),
        )
        sheet = injector_sheet(FOUR, entry, AXIS_V)
        self.assertEqual(sheet.level, "stop")
        self.assertIn("series resistor", sheet.sentences[0])
        self.assertIn("Injectors 4 and 2 differ", " ".join(sheet.sentences))

    def test_the_trade_s_most_frequent_error_is_met_by_a_sentence(self):
        """A digit lost, or the flow of another unit (common practice, no source)."""
        lost = injector_sheet(FOUR, replace(ENTRY, flow=39.0), AXIS_V)
        self.assertEqual(lost.judgement.level, "implausible")
        short = injector_sheet(FOUR, replace(ENTRY, flow=1300.0, injections_per_cycle=2), AXIS_V)
        self.assertIn("Use one injection per cycle", " ".join(short.sentences))
        wanted = injector_sheet(FOUR, replace(ENTRY, target_power_kw=400.0), AXIS_V)
        self.assertIn("400 kW need about", " ".join(wanted.sentences))
        nocam = injector_sheet(
            FOUR, replace(ENTRY, signals="speed_only", injections_per_cycle=4), AXIS_V
        )
        self.assertIn("no mode that these crank and cam signals allow", " ".join(nocam.sentences))


class RefitTests(SimpleTestCase):
    def test_dead_time_and_prime_follow_the_injectors_and_nothing_else(self):
        calibration = generate(FOUR, None)
        after = replace(ENTRY, flow=780.0).fitted_to(FOUR)
        refitted = refit_injectors(calibration, FOUR, after)
        changed = {
            k
            for k in calibration.tables
            if not np.array_equal(calibration[k].values, refitted[k].values)
        }
        self.assertEqual(changed, {"dead_time", "prime_pulse"})
        # Twice the flow, half the pulse, to the table's own step.
        half = 0.5 * calibration["prime_pulse"].values
        self.assertTrue(np.allclose(refitted["prime_pulse"].values, half, atol=0.0501, rtol=0))
        self.assertIn("reference pulse went", refitted["prime_pulse"].mark((0,)).reason)
        self.assertEqual(refitted["dead_time"].axes, calibration["dead_time"].axes)

    def test_the_same_injectors_change_nothing(self):
        calibration = generate(FOUR, None)
        self.assertIs(refit_injectors(calibration, FOUR, FOUR), calibration)
        self.assertTrue(choose_axes(FOUR))


class AnyEngineTests(SimpleTestCase):
    @settings(max_examples=few(40))
    @given(plausible_engines(), st.sampled_from(PUMPS), st.booleans())
    def test_every_figure_of_every_sheet_is_finite(self, spec: EngineSpec, pump, referenced):
        spec = replace(spec, manifold_referenced=referenced)
        entry = InjectorEntry(
            "x", spec.injectors.count, spec.injectors.flow_cm3_min, dead_time=DATA
        )
        sheet = injector_sheet(spec, entry, AXIS_V)
        numbers = [
            sheet.largest_pulse_ms,
            sheet.power_kw,
            sheet.idle_open_ms,
            sheet.dead_time_share_pct,
        ]
        margin = supply_sheet(spec, SupplyEntry("x", pump.readings)).margin
        for line in margin.lines:
            numbers += [*line.demand_l_h, line.available_l_h, line.reserve, line.power_kw]
        self.assertTrue(all(map(math.isfinite, numbers)), numbers)
        self.assertTrue(sheet.sentences and margin.sentences)
