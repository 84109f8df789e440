"""Engine data: one definition of each field, held against all that use it."""

import dataclasses
import math

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, engine_of, entry_of
from inbetrieb_core.engine_data import (
    ENGINE_FIELDS,
    DeadTimeSheet,
    EngineData,
    EngineEntry,
    InjectorsEntry,
    Schools,
)
from inbetrieb_core.errors import InputRefused

from tests.examples import asked

from .engines import FOUR, plausible_engines

#: Where another field says first why it cannot be.
OF_ANOTHER = {"boost_kpa", "boost_full_rpm", "torque_peak_rpm", "wastegate_kpa"}
LEAST = {"displacement_l": 2.0, "chambers": 4}


def entry(**more):
    injectors = more.pop("injectors", InjectorsEntry(300.0))
    return EngineEntry(**{**LEAST, **more}, injectors=injectors)


def with_value(path, value):
    """An entry with one field set, wherever it lies."""
    if path.startswith("injectors."):
        name = path.split(".")[1]
        return entry(injectors=InjectorsEntry(**{"flow_cm3_min": 300.0, name: value}))
    return entry(**{path: value})


class FieldTests(SimpleTestCase):
    def test_every_number_of_an_engine_is_in_the_list_once(self):
        paths = [field.path for field in ENGINE_FIELDS]
        self.assertEqual(len(set(paths)), len(paths))
        numbers = {
            f.name
            for f in dataclasses.fields(EngineData)
            if f.type in ("float", "int", "float | None", "int | None")
        }
        self.assertEqual(numbers - set(paths), set())

    def test_the_spec_adds_no_field_of_its_own_but_the_injectors_and_the_peak(self):
        own = {f.name for f in dataclasses.fields(EngineSpec)}
        shared = {f.name for f in dataclasses.fields(EngineData)}
        self.assertEqual(own - shared, {"injectors", "torque_peak_rpm"})

    def test_defaults_lie_in_their_range_and_needed_fields_have_none(self):
        for field in ENGINE_FIELDS:
            with self.subTest(field=field.path):
                self.assertLess(field.lower, field.upper)
                self.assertTrue(field.title[0].isupper())
                if field.needed:
                    self.assertIsNone(field.default)
                elif field.default is not None:
                    self.assertTrue(field.lower <= field.default <= field.upper)

    def test_only_three_numbers_are_needed(self):
        self.assertEqual(
            {f.path for f in ENGINE_FIELDS if f.needed},
            {"displacement_l", "chambers", "injectors.flow_cm3_min"},
        )
        self.assertEqual(engine_of(entry()).rev_limit_rpm, 6500.0)

    def test_beyond_its_range_every_field_is_refused_under_its_path_with_its_title(self):
        for field in ENGINE_FIELDS:
            span = field.upper - field.lower
            for value in (field.lower - 0.1 * span - 1.0, field.upper + 0.1 * span + 1.0):
                whole = field.path in ("chambers", "valves_per_chamber", "injections_per_cycle", "cam_profiles", "injectors.count")  # fmt: skip
                with self.subTest(field=field.path, value=value):
                    with self.assertRaises(InputRefused) as refused:
                        engine_of(with_value(field.path, int(value) if whole else value)).check()
                    told = {p.field: p.sentence for p in refused.exception.problems}
                    self.assertIn(field.path, told)
                    if field.path not in OF_ANOTHER:
                        self.assertIn(field.title, told[field.path])

    def test_no_number_is_refused_too(self):
        for field in ENGINE_FIELDS:
            for value in (math.nan, math.inf):
                with self.subTest(field=field.path, value=value), self.assertRaises(InputRefused):
                    engine_of(with_value(field.path, value)).check()

    def test_everything_wrong_is_said_at_once(self):
        bad = entry(displacement_l=-1.0, compression_ratio=50.0, altitude_m=90_000.0)
        with self.assertRaises(InputRefused) as refused:
            engine_of(bad).check()
        self.assertGreaterEqual(len(refused.exception.problems), 3)


class EntryTests(SimpleTestCase):
    def test_injectors_are_one_for_each_chamber_unless_they_are_counted(self):
        self.assertEqual(engine_of(entry()).injectors.count, 4)
        counted = entry(injectors=InjectorsEntry(300.0, count=8))
        self.assertEqual(engine_of(counted).injectors.count, 8)

    def test_the_torque_peak_follows_the_rev_limit_unless_it_is_known(self):
        low, high = (
            engine_of(entry(rev_limit_rpm=limit)).torque_peak_rpm for limit in (5000.0, 8000.0)
        )
        self.assertLess(low, high)
        self.assertEqual(engine_of(entry(torque_peak_rpm=3900.0)).torque_peak_rpm, 3900.0)

    def test_a_dead_time_curve_is_data_and_its_lack_is_an_assumption(self):
        self.assertTrue(engine_of(entry()).injectors.dead_time_assumed)
        sheet = DeadTimeSheet((8.0, 12.0, 14.0), (2.4, 1.2, 0.9))
        known = engine_of(entry(injectors=InjectorsEntry(300.0, dead_time=sheet)))
        self.assertFalse(known.injectors.dead_time_assumed)
        self.assertEqual(known.injectors.dead_time.dead_time_ms, (2.4, 1.2, 0.9))

    def test_impossible_dead_times_are_refused_under_their_path(self):
        for voltages, times in (
            ((8.0, 12.0), (2.0,)), ((12.0, 8.0), (1.0, 2.0)), ((8.0, 12.0), (-1.0, 1.0)),
            ((), ()), ((8.0, math.nan), (2.0, 1.0)),
        ):  # fmt: skip
            sheet = DeadTimeSheet(voltages, times)
            with self.subTest(voltages=voltages), self.assertRaises(InputRefused) as refused:
                engine_of(entry(injectors=InjectorsEntry(300.0, dead_time=sheet))).check()
            self.assertTrue(
                any(p.field.startswith("injectors.dead_time") for p in refused.exception.problems)
            )

    @settings(max_examples=asked(100), deadline=None)
    @given(plausible_engines())
    def test_entered_and_computed_forms_are_one(self, spec):
        again = engine_of(entry_of(spec))
        for field in dataclasses.fields(EngineData):
            self.assertEqual(getattr(again, field.name), getattr(spec, field.name), field.name)
        self.assertEqual(again.injectors.flow_cm3_min, spec.injectors.flow_cm3_min)
        self.assertEqual(again.injectors.count, spec.injectors.count)
        self.assertAlmostEqual(again.torque_peak_rpm, spec.torque_peak_rpm)

    def test_schools_have_a_default_each(self):
        chosen = dataclasses.asdict(Schools())
        self.assertEqual(dataclasses.asdict(engine_of(entry()).schools), chosen)
        self.assertTrue(all(chosen.values()))


class GeometryTests(SimpleTestCase):
    @given(st.floats(40.0, 110.0), st.floats(40.0, 110.0), st.sampled_from([1, 2, 3, 4, 6, 8]))
    def test_bore_and_stroke_must_make_the_displacement(self, bore, stroke, chambers):
        """π/4·bore²·stroke·cylinders: geometry."""
        litres = math.pi / 4.0 * bore**2 * stroke * chambers / 1e6
        if not 0.05 <= litres <= 30.0:
            return
        data = {"chambers": chambers, "bore_mm": bore, "stroke_mm": stroke}
        problems = self.problems(entry(displacement_l=litres, **data))
        self.assertFalse({"bore_mm", "stroke_mm", "displacement_l"} & problems)
        wrong = self.problems(entry(displacement_l=min(30.0, litres * 1.6), **data))
        if litres * 1.6 <= 30.0:
            self.assertTrue({"bore_mm", "stroke_mm", "displacement_l"} & wrong)

    def problems(self, entered):
        try:
            engine_of(entered).check()
        except InputRefused as refused:
            return {p.field for p in refused.problems}
        return set()

    def test_overlap_is_duration_less_two_separations(self):
        """280° on 110° lobes overlap by 60° (geometry; common practice)."""
        spec = dataclasses.replace(FOUR, cam_duration_deg=280.0, lobe_separation_deg=110.0)
        self.assertAlmostEqual(spec.overlap_deg, 60.0)
        self.assertIsNone(dataclasses.replace(spec, lobe_separation_deg=None).overlap_deg)

    def test_piston_speed(self):
        """86 mm at 7000/min: 20.07 m/s, from 2·s·n."""
        spec = engine_of(
            entry(displacement_l=2.0, bore_mm=86.0, stroke_mm=86.0, rev_limit_rpm=7000.0)
        )
        self.assertAlmostEqual(spec.piston_speed_at_limit_m_s, 20.067, places=2)
        self.assertIsNone(engine_of(entry()).piston_speed_at_limit_m_s)

    def test_classes_of_cams_blend(self):
        for wildness, value in (("mild", 1.0), ("moderate", 3.0), ("wild", 9.0)):
            spec = engine_of(entry(cam=wildness))
            self.assertEqual(spec.by_cam(1.0, 3.0, 9.0), value)
        self.assertEqual(FOUR.top_map_kpa, FOUR.barometric_kpa)
