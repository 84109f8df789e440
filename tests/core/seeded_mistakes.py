"""Clean hand-worked calibrations and the mistakes that are seeded into them."""

from dataclasses import replace

import numpy as np
from inbetrieb_core.basemaps import generate, generated_like
from inbetrieb_core.basemaps.generate import setting
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.tables import Provenance, Table, filled
from inbetrieb_core.tables.review import ReviewContext, review

from .engines import FOUR

MARK = Provenance("carried_over", "found so")


def clean(seed):
    """Return a generated calibration with the small unevenness of hand work."""
    random = np.random.default_rng(seed)
    chambers = int(random.choice([3, 4, 6, 8]))
    boosted = random.random() < 0.3
    spec = EngineSpec(
        round(0.45 * chambers, 2), chambers, injectors=InjectorSet(chambers, 420.0),
        cam=str(random.choice(["mild", "moderate", "wild"])),
        compression_ratio=float(round(random.uniform(8.5, 11.0), 1)),
        induction="boosted" if boosted else "natural", boost_kpa=60.0 if boosted else 0.0,
        rev_limit_rpm=float(random.choice([5500, 6500, 7500])),
    )  # fmt: skip
    calibration = generate(spec)
    for key, noise in (("ve", 0.5), ("spark", 0.3), ("lambda_target", 0.003)):
        table = calibration[key]
        rough = table.values + noise * random.standard_normal(table.values.shape)
        calibration = calibration.with_table(with_values(table, rough))
    return calibration, random


def with_values(table, values):
    definition = table.definition
    values = np.clip(values, definition.lower, definition.upper).round(6)
    return Table(table.key, table.axes, values, table.provenance)


def changed(calibration, key, change):
    table = calibration[key]
    values = np.array(table.values)
    change(values)
    return calibration.with_table(with_values(table, values))


def inner(random, shape):
    return tuple(int(random.integers(2, n - 2)) for n in shape)


def spike(calibration, random):
    at = inner(random, calibration["ve"].values.shape)
    return changed(calibration, "ve", lambda v: v.__setitem__(at, v[at] + 18.0)), at


def hole(calibration, random):
    at = inner(random, calibration["ve"].values.shape)
    return changed(calibration, "ve", lambda v: v.__setitem__(at, v[at] - 18.0)), at


def spark_spike(calibration, random):
    at = inner(random, calibration["spark"].values.shape)
    return changed(calibration, "spark", lambda v: v.__setitem__(at, v[at] + 9.0)), at


def step(calibration, random):
    row = int(random.integers(3, calibration["ve"].values.shape[0] - 3))
    return changed(calibration, "ve", lambda v: v.__setitem__(slice(row, None), v[row:] + 20.0)), (
        row,
        0,
    )


def flat(calibration, random):
    return changed(
        calibration, "ve", lambda v: v.__setitem__((slice(3, 6), slice(-3, None)), 200.0)
    ), (3, -3)


def rising(calibration, random):
    i = int(random.integers(3, 6))
    return changed(
        calibration, "warm_up_enrichment", lambda v: v.__setitem__(i, v[i - 1] + 12.0)
    ), (i,)


def cold_idle(calibration, random):
    return changed(calibration, "idle_target", lambda v: v.__setitem__(slice(None), 850.0)), (0,)


def zeroed(calibration, random):
    return changed(
        calibration, "after_start_enrichment", lambda v: v.__setitem__(slice(None), 0.0)
    ), (0,)


def equal(calibration, random):
    return changed(calibration, "cranking_fuel", lambda v: v.__setitem__(slice(None), 180.0)), (0,)


def starved(calibration, random):
    poor = changed(calibration, "cranking_air", lambda v: v.__setitem__(slice(None), v * 0.02))
    return changed(poor, "idle_valve", lambda v: v.__setitem__(slice(0, 6), 2.0)), (0,)


def rising_dead_time(calibration, random):
    return changed(calibration, "dead_time", lambda v: v.__setitem__(5, v[4] + 0.3)), (5,)


def lean(calibration, random):
    return changed(
        calibration,
        "lambda_target",
        lambda v: v.__setitem__((slice(-4, None), slice(-2, None)), 1.02),
    ), (-1, -1)


def too_much_spark(calibration, random):
    return changed(
        calibration, "spark", lambda v: v.__setitem__((slice(None), slice(-2, None)), 41.0)
    ), (0, -1)


def context_of(calibration, spec=FOUR, **more):
    return ReviewContext(spec, generated_like(spec, calibration), **more)


def boosted(random):
    """A clean calibration of a charged engine, with what that has besides."""
    spec = replace(
        FOUR, induction="boosted", boost_kpa=80.0, compression_ratio=8.8, wastegate_kpa=45.0,
        boost_full_rpm=3000.0,
    )  # fmt: skip
    return spec, generate(spec)


def trims(calibration, random, where=None, size=17.0):
    table = calibration["ve"]
    values = random.normal(0.0, 1.0, table.values.shape)
    if where is None:
        values += size
    else:
        values[where] += size
    mark = filled(values.shape, Provenance("measured", "Learned."))
    return calibration.with_table(Table("learned_trim", table.axes, values.round(1), mark))


def with_setting(calibration, key, value):
    return calibration.with_table(setting(key, value, "assumed", "Found in the controller."))


#: What an inherited file of a whole engine can have wrong, beside single tables: the seeder
#: returns (context, calibration), the rule that has to notice it stands beside it.
IN_CONTEXT = {}


def in_context(rule):
    def keep(seeder):
        IN_CONTEXT[seeder] = rule
        return seeder

    return keep


@in_context("trim_everywhere")
def trims_everywhere(random):
    calibration = trims(
        generate(FOUR), random, size=random.choice([-1, 1]) * random.uniform(12, 20)
    )
    return context_of(calibration), calibration


@in_context("trim_local")
def trims_in_a_corner(random):
    corner = (
        (slice(-5, None), slice(-4, None)) if random.random() < 0.5 else (slice(0, 4), slice(0, 3))
    )
    calibration = trims(generate(FOUR), random, corner, random.uniform(12, 20))
    return context_of(calibration), calibration


@in_context("trim_at_stop")
def trims_at_their_stop(random):
    calibration = trims(generate(FOUR), random, (slice(3, 6), slice(2, 5)), 30.0)
    calibration = with_setting(calibration, "closed_loop_authority", 25.0)
    return context_of(calibration), calibration


@in_context("authority")
def too_much_authority(random):
    calibration = with_setting(generate(FOUR), "closed_loop_authority", random.uniform(14, 60))
    return context_of(calibration), calibration


@in_context("boost_cut")
def cut_far_above(random):
    spec, calibration = boosted(random)
    calibration = with_setting(calibration, "boost_cut", spec.top_map_kpa + random.uniform(55, 150))
    return context_of(calibration, spec), calibration


@in_context("boost_cut")
def cut_below_target(random):
    spec, calibration = boosted(random)
    calibration = with_setting(calibration, "boost_cut", spec.top_map_kpa - random.uniform(10, 40))
    return context_of(calibration, spec), calibration


@in_context("boost_valve")
def another_kind_of_valve(random):
    spec, calibration = boosted(random)
    calibration = changed(
        calibration, "boost_duty", lambda v: v.__setitem__(slice(8, 12), random.choice([4.0, 97.0]))
    )
    return context_of(calibration, spec), calibration


@in_context("early_boost")
def boost_before_the_charger_can(random):
    spec, calibration = boosted(random)
    calibration = changed(
        calibration, "boost_target", lambda v: v.__setitem__(slice(3, None), 180.0)
    )
    return context_of(calibration, spec), calibration


@in_context("lean_under_boost")
def lean_under_boost(random):
    spec, calibration = boosted(random)
    calibration = changed(
        calibration,
        "lambda_target",
        lambda v: v.__setitem__((slice(6, None), slice(-3, None)), 0.93),
    )
    return context_of(calibration, spec), calibration


@in_context("valve_limit")
def valve_shut(random):
    calibration = changed(
        generate(FOUR), "idle_valve", lambda v: v.__setitem__(slice(-3, None), 0.5)
    )
    return context_of(calibration), calibration


@in_context("battery_flat")
def one_dead_time(random):
    calibration = changed(generate(FOUR), "dead_time", lambda v: v.__setitem__(slice(None), 1.0))
    return context_of(calibration), calibration


@in_context("filling_off")
def wrong_flow(random):
    calibration = changed(
        generate(FOUR), "ve", lambda v: v.__setitem__(slice(None), v * random.uniform(0.35, 0.58))
    )
    return context_of(calibration), calibration


@in_context("rev_limit")
def above_its_own_limit(random):
    calibration = changed(
        generate(FOUR), "rev_limit", lambda v: v.__setitem__(slice(6, None), 8200.0)
    )
    return context_of(calibration), calibration


@in_context("overrun")
def fuel_back_too_late(random):
    calibration = with_setting(generate(FOUR), "overrun_resume_rpm", random.uniform(620, 820))
    return context_of(calibration), calibration


@in_context("spark_caution")
def too_brave(random):
    calibration = changed(
        generate(FOUR),
        "spark",
        lambda v: v.__setitem__((slice(4, 12), slice(-2, None)), v[4:12, -2:] + 9.0),
    )
    return context_of(calibration), calibration


@in_context("unwired_input")
def nothing_behind_it(random):
    calibration = generate(FOUR)
    return (
        context_of(calibration, configured_inputs=("launch switch",), wired_inputs=("coolant",)),
        calibration,
    )


SEEDED = {
    spike: "spike", hole: "hole", spark_spike: "spike", step: "step", flat: "flat_at_limit",
    rising: "bump", cold_idle: "cold_idle", zeroed: "untouched", equal: "untouched",
    starved: "cranking_air", rising_dead_time: "dead_time", lean: "lean_at_load",
    too_much_spark: "spark_at_load",
}  # fmt: skip
ROUNDS = 4
#: What a fault brings with it by its nature: a wrong flow also moves every start table, say.
RELATED = {
    "trim_everywhere": {"trim_at_stop"}, "trim_local": {"trim_at_stop"},
    "trim_at_stop": {"trim_local", "authority"}, "valve_limit": {"cranking_air", "overrun"},
    "spark_caution": {"step", "spike"},
}  # fmt: skip


def seeded_hits(rounds):
    """Return how often each seeded fault is found where it is."""
    found = {}
    for seeder, rule in SEEDED.items():
        hits = 0
        for seed in range(rounds):
            calibration, random = clean(100 + seed)
            faulty, at = seeder(calibration, random)
            here = [f for f in review(faulty).findings if f.rule == rule]
            if len(at) == 2 and min(at) >= 0 and rule in ("spike", "hole", "step"):
                here = [f for f in here if at in f.cells]
            hits += bool(here)
        found[seeder.__name__] = hits
    return found


def hits_in_context(rounds):
    """Return how often each fault that needs the engine is found, and what nobody seeded."""
    found, alarms = {}, 0
    for seeder, rule in IN_CONTEXT.items():
        hits = 0
        for seed in range(rounds):
            context, calibration = seeder(np.random.default_rng(seed))
            rules = {f.rule for f in review(calibration, context).findings}
            hits += rule in rules
            alarms += len(rules - {rule} - RELATED.get(rule, set()))
        found[seeder.__name__] = hits
    return found, alarms
