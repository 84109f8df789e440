"""What a moving pedal does: throttle steps in logs, fuel on the walls, acceleration enrichment, and the overrun cut."""

from .enrichment import Enrichment, propose_enrichment, written_into
from .film import Film, film_response, fit_film, into_cylinder
from .overrun import Overrun, read_overrun
from .steps import Drive, ThrottleStep, prepared, throttle_steps
from .told import Transients, read_transients

__all__ = [
    "Drive",
    "Enrichment",
    "Film",
    "Overrun",
    "ThrottleStep",
    "Transients",
    "film_response",
    "fit_film",
    "into_cylinder",
    "prepared",
    "propose_enrichment",
    "read_overrun",
    "read_transients",
    "throttle_steps",
    "written_into",
]
