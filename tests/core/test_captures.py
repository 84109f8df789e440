"""Relative compression, wheels of no list, ribbons, and the cranked bench engine."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import (
    EDGE_FAULTS,
    Fault,
    simulate_cranking,
    simulate_light,
    stand_in,
)
from inbetrieb_core.bench.cranking import true_delay_us, true_offset_deg
from inbetrieb_core.bench.edges import EdgeConditions, simulate_edges
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.firing import USUAL_ORDERS
from inbetrieb_core.triggers import (
    PATTERNS,
    Capture,
    LightReading,
    TriggerEntry,
    decode,
    fit_timing,
    read_capture,
    relative_compression,
    ribbon_of,
    toothed,
    usual_trigger,
    wheel_picture,
)

from .cranked import cranked

WHEEL = PATTERNS["36−1 with cam"]


def engine(chambers=4, cycle="four_stroke"):
    return EngineSpec(
        0.55 * chambers, chambers, injectors=InjectorSet(chambers, 390.0), cycle=cycle
    )


class CompressionTests(SimpleTestCase):
    def told(self, wheel, chambers, weak, order, **more):
        conditions = EdgeConditions(
            rpm=210.0, chambers=chambers, turns=16.0, ripple=0.22, weak=weak, top_deg=90.0, **more
        )
        capture = simulate_edges(wheel, conditions)
        decoded = decode(capture, wheel)
        return relative_compression(
            capture,
            decoded.followed,
            chambers,
            cam=decoded.cam,
            offset_deg=90.0,
            firing_order=order,
        )

    def test_weak_cylinders_are_found_and_healthy_ones_are_not_blamed(self):
        """Truth: gas torque by the equation of motion, strokes overlapping; one cylinder at 70 %."""
        found = told_at_all = blamed = healthy = 0
        worst = 0.0
        for chambers in (4, 6, 8, 10, 12):
            order = USUAL_ORDERS[chambers]
            for seed in range(2):
                strength = 1.0 + 0.02 * np.random.default_rng(seed).normal(size=chambers)
                bad = (3 * seed + 1) % chambers
                strength[bad] = 0.7
                wheel = PATTERNS["36−1 with cam" if seed else "60−2 with cam"]
                capture = cranked(wheel, chambers, strength, seed=seed, ratio=8.8 + seed)
                decoded = decode(capture, wheel)
                told = relative_compression(
                    capture, decoded.followed, chambers,
                    cam=decoded.cam, offset_deg=90.0, firing_order=order,
                )  # fmt: skip
                if not told.cylinders:
                    continue
                told_at_all += 1
                size = {c.cylinder: c.relative_pct for c in told.cylinders}
                said = " ".join(told.sentences)
                found += f"Cylinder {order[bad]} has" in said
                others = [n for n in order if n != order[bad]]
                healthy += len(others)
                blamed += sum(f"Cylinder {n} has" in said for n in others)
                worst = max(worst, abs(size[order[bad]] - 100.0 * 0.7 / strength.max()))
        print(
            f"\nweak cylinders: {found} of {told_at_all} named, {blamed} of {healthy} healthy blamed, size off by {worst:.0f} points at most"
        )
        self.assertGreaterEqual(told_at_all, 8)
        self.assertEqual(found, told_at_all)
        self.assertLessEqual(blamed, 0.01 * healthy)
        self.assertLess(worst, 10.0)

    def test_a_weak_cylinder_of_the_bench_is_the_lowest(self):
        """The bench's dips have a form of their own: a cosine's power, no gas law."""
        for name, chambers, order in (
            ("36−1 with cam", 4, (1, 3, 4, 2)),
            ("60−2 with cam", 6, (1, 5, 3, 6, 2, 4)),
        ):
            weak = tuple(0.7 if i == 1 else 1.0 for i in range(chambers))
            told = self.told(PATTERNS[name], chambers, weak, order, seed=1)
            lowest = min(told.cylinders, key=lambda c: c.relative_pct)
            with self.subTest(name=name):
                self.assertEqual(order[1], lowest.cylinder)

    def test_even_cylinders_raise_no_alarm(self):
        for name, chambers in (("36−1 with cam", 4), ("60−2 with cam", 6), ("36−2−2−2", 4)):
            for seed in range(3):
                told = self.told(PATTERNS[name], chambers, (), (), seed=seed)
                with self.subTest(name=name, seed=seed):
                    self.assertEqual(told.level, "good")

    def test_without_a_cam_it_does_not_pretend_to_know_the_cylinder(self):
        told = self.told(PATTERNS["36−1"], 4, (1.0, 0.7, 1.0, 1.0), (1, 3, 4, 2))
        self.assertEqual({c.cylinder for c in told.cylinders}, {None})
        self.assertLess(min(c.relative_pct for c in told.cylinders), 75.0)

    def test_says_when_it_cannot_tell(self):
        for wheel, more, words in (
            (PATTERNS["4+1"], {}, "too few edges"),
            (WHEEL, {"rpm": 900.0}, "the engine runs"),
            (WHEEL, {"turns": 4.0}, "Crank for at least"),
            (WHEEL, {"ripple": 0.0, "jitter_us": 60.0}, "hardly dips"),
        ):
            conditions = EdgeConditions(**{"rpm": 200.0, "turns": 16.0, "seed": 2, **more})
            capture = simulate_edges(wheel, conditions)
            told = relative_compression(capture, decode(capture, wheel).followed, 4)
            with self.subTest(words=words):
                self.assertEqual(told.level, "unknown")
                self.assertIn(words, told.sentences[0])

    def test_an_offset_a_quarter_turn_off_is_noticed(self):
        conditions = EdgeConditions(rpm=200.0, turns=16.0, ripple=0.22, top_deg=90.0)
        capture = simulate_edges(WHEEL, conditions)
        decoded = decode(capture, WHEEL)
        told = relative_compression(
            capture,
            decoded.followed,
            4,
            cam=decoded.cam,
            offset_deg=140.0,
            firing_order=(1, 3, 4, 2),
        )
        self.assertIn("trigger offset", " ".join(told.sentences))


class BenchTests(SimpleTestCase):
    def test_every_fault_of_the_cranked_bench_engine_is_found(self):
        wanted = {
            None: "agrees", "swapped": "polarity", "weak_signal": "weak", "interference": "noise",
            "other_wheel": "other", "no_cam": "cam", "low_compression": "agrees",
        }  # fmt: skip
        self.assertEqual(set(wanted) - {None}, set(EDGE_FAULTS))
        cases = right = 0
        for spec, patterns in (
            (engine(4), ("36−1 with cam",)),
            (engine(2, "rotary"), ("60−2 with cam",)),
        ):
            calibration, bench = generate(spec), stand_in(spec, seed=4)
            for pattern in patterns:
                entry = TriggerEntry(pattern=pattern, firing_order=usual_trigger(spec).firing_order)
                for fault, verdict in wanted.items():
                    data = simulate_cranking(
                        bench, spec, calibration, entry, faults=[Fault(fault)] if fault else [],
                        engine_seed=4, seed=9,
                    )  # fmt: skip
                    read = read_capture(data)
                    decoded = decode(read.capture, entry.wheel())
                    cases += 1
                    right += decoded.verdict == verdict
                    with self.subTest(chambers=spec.chambers, pattern=pattern, fault=fault):
                        self.assertEqual(decoded.verdict, verdict, decoded.sentence)
                    if fault == "low_compression":
                        told = relative_compression(
                            read.capture, decoded.followed, round(spec.firings_per_turn * 2),
                            cam=decoded.cam, offset_deg=90.0, firing_order=entry.firing_order,
                        )  # fmt: skip
                        self.assertEqual(told.level, "stop")
        print(f"\nbench captures judged right: {right} of {cases}")

    def test_refuses_faults_and_figures_it_does_not_have(self):
        spec = engine()
        with self.assertRaises(InputRefused):
            simulate_cranking(stand_in(spec, 1), spec, generate(spec), TriggerEntry(), crank_s=99.0)
        for fault in (
            Fault("gremlins"),
            Fault("weak_signal", 90.0),
            Fault("swapped", float("nan")),
        ):
            with self.assertRaises(InputRefused):
                simulate_cranking(
                    stand_in(spec, 1), spec, generate(spec), TriggerEntry(), faults=[fault]
                )

    def test_the_light_on_the_bench_leads_to_its_true_offset(self):
        for seed in range(5):
            entry = TriggerEntry(offset_deg=84.0)
            readings = [
                simulate_light(entry, rpm, 10.0, engine_seed=seed, seed=40 * seed + i)
                for i, rpm in enumerate([900.0] * 12 + [2500.0] * 12 + [4500.0] * 12)
            ]
            fit = fit_timing(readings, entry.offset_deg)
            with self.subTest(seed=seed):
                self.assertAlmostEqual(fit.new_offset_deg, true_offset_deg(seed), delta=0.5)
                self.assertAlmostEqual(fit.delay_us, true_delay_us(seed), delta=20.0)

    def test_a_spark_seen_a_quarter_turn_away_is_another_cylinder_before_it_is_an_offset(self):
        told = fit_timing([LightReading(900.0, 10.0, -80.0)], 90.0)
        self.assertEqual(told.level, "stop")
        self.assertIn("Look at the cylinder first", told.sentences[0])


def is_told(places, gone, cam):
    """Say whether a wheel of no list is told from its edges, tooth by tooth."""
    fitted = toothed(f"{places}−{gone}", places, range(places - gone, places), cam_edges_deg=cam)
    capture = simulate_edges(fitted, EdgeConditions(turns=14.0, ripple=0.25, seed=places))
    decoded = decode(capture, WHEEL)
    return decoded.verdict == "other" and decoded.followed.wheel.edges_deg == fitted.edges_deg


class UnlistedWheelTests(SimpleTestCase):
    """Wheels that are in no list: the edges tell teeth and gap by themselves."""

    def test_a_wheel_of_any_size_is_told_from_its_edges(self):
        cases = right = 0
        for places, gone in ((44, 2), (36, 4), (22, 2)):
            for cam in ((), (130.0,)):
                cases += 1
                right += is_told(places, gone, cam)
        print(f"\nwheels of no list told from their edges: {right} of {cases}")
        self.assertGreaterEqual(right, 0.9 * cases)

    def test_an_own_wheel_agrees_and_its_swapped_wires_are_noticed(self):
        own = TriggerEntry(kind="toothed", teeth=44, missing=2).wheel()
        conditions = {"turns": 14.0, "ripple": 0.2, "seed": 3}
        self.assertEqual(
            decode(simulate_edges(own, EdgeConditions(**conditions)), own).verdict, "agrees"
        )
        swapped = simulate_edges(own, EdgeConditions(**conditions, swapped=True))
        self.assertEqual(decode(swapped, own).verdict, "polarity")

    def test_a_weak_signal_does_not_lead_onto_the_wrong_place(self):
        """Teeth missed near the gap: most are found, and few good ones are called spare."""
        for name in ("36−1", "60−2", "36−1 with cam"):
            for seed in range(2):
                capture = simulate_edges(
                    PATTERNS[name],
                    EdgeConditions(turns=16.0, ripple=0.2, lost_share=0.06, seed=seed),
                )
                decoded = decode(capture, PATTERNS[name])
                with self.subTest(name=name, seed=seed):
                    self.assertEqual(decoded.verdict, "weak")
                    self.assertLess(decoded.extra_share, 0.02)

    def test_edges_of_no_wheel_are_called_unknown(self):
        random = np.random.default_rng(1)
        times = np.cumsum(random.uniform(0.001, 0.02, 600))
        decoded = decode(Capture(times, np.array([])), WHEEL)
        self.assertEqual(decoded.verdict, "unknown")


class RibbonTests(SimpleTestCase):
    def test_a_stretch_holds_its_edges_by_kind(self):
        capture = simulate_edges(
            WHEEL, EdgeConditions(turns=12.0, lost_share=0.02, extra_share=0.02, seed=5)
        )
        decoded = decode(capture, WHEEL)
        whole = ribbon_of(capture, decoded.followed, 0.0, 60.0)
        kinds = [mark.kind for mark in whole.marks]
        self.assertEqual(kinds.count("lost"), decoded.followed.lost_at_s.size)
        self.assertEqual(kinds.count("extra"), decoded.followed.extra_at_s.size)
        self.assertIn(kinds.count("first"), (11, 12, 13))
        self.assertGreater(kinds.count("cam"), 4)
        part = ribbon_of(capture, decoded.followed, 0.5, 0.25)
        self.assertTrue(all(0.5 <= mark.at_s <= 0.75 + 1e-9 for mark in part.marks))
        self.assertTrue(all(100.0 < rpm < 400.0 for _, rpm in part.speed))

    def test_never_more_edges_than_can_be_drawn(self):
        capture = simulate_edges(PATTERNS["60−2"], EdgeConditions(turns=60.0))
        ribbon = ribbon_of(capture, decode(capture, PATTERNS["60−2"]).followed, 0.0, 60.0)
        self.assertLessEqual(len(ribbon.marks), 900)
        self.assertLess(ribbon.end_s, ribbon.length_s)


class EntryTests(SimpleTestCase):
    def test_three_ways_to_say_the_same_wheel(self):
        named = TriggerEntry(kind="pattern", pattern="36−1").wheel()
        toothed = TriggerEntry(kind="toothed", teeth=36, missing=1).wheel()
        edges = TriggerEntry(
            kind="edges", edges_deg=tuple(5.0 + 10.0 * i for i in range(35))
        ).wheel()
        self.assertEqual(named.edges_deg, toothed.edges_deg)
        np.testing.assert_allclose(edges.edges_deg, named.edges_deg)

    def test_says_what_the_controller_can_know(self):
        for entry, words in (
            (TriggerEntry(pattern="36−1 with cam"), "sequential injection"),
            (TriggerEntry(pattern="36−1"), "wasted spark"),
            (TriggerEntry(pattern="4 alone"), "speed only"),
        ):
            picture = wheel_picture(entry, engine())
            self.assertIn(words, picture.sentences[0])
        slow = wheel_picture(TriggerEntry(pattern="60−2", filter_us=300.0), engine())
        self.assertIn("swallow teeth", slow.sentences[-1])

    def test_draws_gap_and_top_dead_centres(self):
        picture = wheel_picture(TriggerEntry(pattern="60−2", offset_deg=84.0), engine())
        self.assertEqual([tuple(round(a) for a in gap) for gap in picture.gaps_deg], [(342, 360)])
        self.assertEqual(picture.top_dead_centres_deg, (84.0, 264.0))

    def test_refuses_what_is_no_trigger(self):
        for entry, field in (
            (TriggerEntry(pattern="7 of 9"), "pattern"),
            (TriggerEntry(kind="toothed", teeth=4, missing=4), "teeth"),
            (TriggerEntry(kind="edges"), "edges_deg"),
            (TriggerEntry(kind="edges", edges_deg=(0.0, 20.0, 10.0)), "edges_deg"),
            (TriggerEntry(offset_deg=float("inf")), "offset_deg"),
            (TriggerEntry(firing_order=(1, 2, 2, 4)), "firing_order"),
            (TriggerEntry(filter_us=-1.0), "filter_us"),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as caught:
                entry.check(engine())
            self.assertEqual(caught.exception.problems[0].field, field)


class OtherWheelTests(SimpleTestCase):
    """Every wheel fitted, every other believed: drawn speeds, cylinders, ripple and lengths."""

    def test_another_wheel_is_named_and_not_taken_for_a_spoilt_signal(self):
        draw = np.random.default_rng(77)
        names = [name for name in PATTERNS if name != "4 alone"]
        cases = right = 0
        for _ in range(14):
            fitted, believed = draw.choice(names, 2, replace=False)
            capture = simulate_edges(
                PATTERNS[fitted],
                EdgeConditions(
                    rpm=float(draw.uniform(140.0, 260.0)), chambers=int(draw.choice([3, 4, 6, 8])),
                    ripple=float(draw.uniform(0.1, 0.3)), turns=float(draw.uniform(8.0, 22.0)),
                    jitter_us=25.0, seed=int(draw.integers(1_000_000)),
                ),
            )  # fmt: skip
            told = decode(capture, PATTERNS[believed])
            cases += 1
            # The same teeth on the other shaft are told with the speed that decides.
            right += told.followed.wheel.name == fitted or f"it is {fitted}:" in told.sentence
            right += (
                told.verdict == "cam" and PATTERNS[fitted].edges_deg == PATTERNS[believed].edges_deg
            )
        print(f"\nother wheels named: {right} of {cases}")
        self.assertGreaterEqual(right, 0.95 * cases)

    def test_what_returns_in_every_turn_is_the_wheel_and_not_its_signal(self):
        draw = np.random.default_rng(78)
        for number in range(8):
            name = ("36−1", "60−2", "36−1 with cam", "24−2")[number % 4]
            wheel, gone = PATTERNS[name], number % 2
            place = int(draw.integers(2, len(wheel.edges_deg) - 2))
            edges = [e for i, e in enumerate(wheel.edges_deg) if not (gone and i == place)]
            if not gone:
                edges.append(wheel.edges_deg[place] + 0.5 * min(wheel.steps_deg))
            fitted = replace(wheel, edges_deg=tuple(sorted(edges)))
            conditions = EdgeConditions(turns=float(draw.uniform(8.0, 16.0)), seed=number)
            told = decode(simulate_edges(fitted, conditions), wheel)
            with self.subTest(name=name, gone=gone):
                self.assertEqual(told.verdict, "other", told.sentence)
                self.assertIn("every turn", told.sentence)

    def test_a_cam_edge_elsewhere_is_judged_against_the_entered_one(self):
        entered = TriggerEntry(kind="toothed", teeth=36, missing=1, cam_edges_deg=(150.0,)).wheel()
        for off, verdict in ((0.0, "agrees"), (45.0, "cam"), (360.0, "agrees"), (-30.0, "cam")):
            fitted = replace(entered, cam_edges_deg=((150.0 + off) % 720.0,))
            told = decode(simulate_edges(fitted, EdgeConditions(turns=12.0, seed=4)), entered)
            with self.subTest(off=off):
                self.assertEqual(told.verdict, verdict, told.sentence)

    def test_an_impossible_speed_refuses_the_unit(self):
        capture = simulate_edges(WHEEL, EdgeConditions(turns=12.0, seed=4))
        told = decode(Capture(1e-3 * capture.crank_s, 1e-3 * capture.cam_s), WHEEL)
        self.assertEqual(told.verdict, "unknown")
        self.assertIn("another unit", told.sentence)
