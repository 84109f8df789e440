"""Long work over HTTP: how far it is, and ending it."""

from __future__ import annotations

from typing import Any, Literal

from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.problems import Problem

from . import services
from .models import Task

router = Router(tags=["tasks"])


class TaskOut(Schema):
    """A piece of long work."""

    task: int
    kind: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    share: float = Field(description="0 to 1")
    sentence: str = Field(description="what is being done, or why it ended")
    result: Any = Field(None, description="what came of it, once it is done")
    problem: Problem | None = Field(None, description="why it failed")


def task_out(task: Task) -> TaskOut:
    """Return a task as it travels."""
    return TaskOut(
        task=task.pk,
        kind=task.kind,
        state=task.state,  # type: ignore[arg-type]
        share=task.share,
        sentence=task.sentence,
        result=task.result,
        problem=None if task.problem is None else Problem(**task.problem),
    )


def accepted(task: Task) -> Status[TaskOut]:
    """Return the answer to a request whose work goes on as a task."""
    return Status(202, task_out(task))


@router.get("/tasks/{task_id}", response={200: TaskOut, 404: Problem}, operation_id="tasks_get")
def get_task(request: SignedInRequest, task_id: int) -> TaskOut:
    """Return how far a piece of long work is."""
    return task_out(services.task_of(request.user, task_id))


@router.delete(
    "/tasks/{task_id}", response={200: TaskOut, 404: Problem}, operation_id="tasks_cancel"
)
def cancel_task(request: SignedInRequest, task_id: int) -> TaskOut:
    """End a piece of long work; nothing that it had not written yet is written."""
    return task_out(services.cancel(request.user, task_id))
