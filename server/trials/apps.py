"""The app of the trials tells the rooms below it what was tried."""

from django.apps import AppConfig


class TrialsConfig(AppConfig):
    """Registers the trials with those who may not import them."""

    name = "server.trials"

    def ready(self) -> None:
        """Say who knows the trials of a job."""
        from server.jobs.tried import tells_of_trials

        from .facts import good_starts, trial_facts

        tells_of_trials(trial_facts, good_starts)
