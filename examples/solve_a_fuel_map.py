"""Solve one correction of a fuel map from a drive: python examples/solve_a_fuel_map.py"""

from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, drawn_legs, simulate_drive
from inbetrieb_core.fuelling import fingerprint, grid_of, propose, sift, solve_map


def main() -> None:
    engine = NAMED["port_four"]
    tables = generate(engine.spec)
    # A log of your own is read by inbetrieb_core.logs.import_log(...).trace instead.
    drive = simulate_drive(
        engine, engine.spec, tables, drawn_legs(engine.spec, 4.0, seed=1), seed=1
    )
    sifted = sift(drive, tables)
    for layer in sifted.layers:
        print(f"{layer.title}: {layer.seconds:.0f} s left out")
    told = fingerprint(sifted.readings, engine.spec, tables["ve"], drives=[sifted.beside])
    print(told.sentence)
    proposal = propose(tables["ve"], solve_map(sifted.readings, grid_of(tables["ve"])))
    print(proposal.sentence)


if __name__ == "__main__":
    main()
