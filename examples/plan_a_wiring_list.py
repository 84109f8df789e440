"""Plan a wiring list: python examples/plan_a_wiring_list.py server/wiring/controllers/prahm-24.json

The controller is a JSON file of the published schema (docs/controller-profile.schema.json).
"""

import sys
from pathlib import Path

from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.sentences import plain
from inbetrieb_core.wiring import ControllerProfile, PlanEntry, plan_wiring, usual_fitting
from pydantic import TypeAdapter


def main(path: str) -> None:
    controller = TypeAdapter(ControllerProfile).validate_json(Path(path).read_bytes()).check()
    engine = EngineSpec(2.2, 4, injectors=InjectorSet(4, 390.0))
    plan = plan_wiring(engine, controller, PlanEntry(usual_fitting(engine)), (), (1, 3, 4, 2))
    for line in plan.lines:
        print(
            f"{line.connector:>3} {line.pin:>3}  {line.title:<40} {line.size_mm2:g} mm² {line.colour}"
        )
    for sentence in plan.sentences:
        print(plain(sentence))


if __name__ == "__main__":
    main(sys.argv[1])
