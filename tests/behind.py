"""The processes behind, one task at a time inside a test; and a page that begins what it is told to wait for."""

from __future__ import annotations

import json
from typing import Any

from django.test import Client
from procrastinate.contrib.django import app
from procrastinate.jobs import Job, Status
from procrastinate.sql import queries

import mellow_span.serving.tasks  # noqa: F401  the tasks are known by it
from mellow_span.jobs.searches import SEARCHES, VIEWS
from mellow_span.serving.searcher import AT_ONCE


def take(views_alone: bool = False) -> Job | None:
    """The task that is next in turn, as a process takes it: nobody else gets it, nor another that waits for it."""
    # By the statements of the queue itself; its own way to them needs a loop, and a test in a browser has left one running.
    ask = app.connector.get_sync_connector().execute_query_one
    worker = ask(queries["register_worker"])["worker_id"]
    row = ask(queries["fetch_job"], queues=[VIEWS] if views_alone else [VIEWS, SEARCHES], worker_id=worker)
    # By the connection of the test JSON comes as it is written.
    return Job.from_row({**row, "args": json.loads(row["args"])}) if row["id"] else None


def end(task: Job) -> None:
    """Let a task that was taken be over."""
    done = {"job_id": task.id, "status": Status.SUCCEEDED.value, "delete_job": True}
    app.connector.get_sync_connector().execute_query(queries["finish_job"], **done)


def put_back(task: Job) -> None:
    """Put a task back that a process had begun which is gone, as those that are left do."""
    assert task.id is not None
    app.job_manager.retry_job_by_id(task.id, AT_ONCE)


def work(task: Job) -> None:
    """Do a task that was taken."""
    app.tasks[task.task_name](**task.task_kwargs)
    end(task)


def work_once(views_alone: bool = False) -> bool:
    """Do what is next in turn; whether there was anything."""
    task = take(views_alone)
    if task is not None:
        work(task)
    return task is not None


def begin(client: Client, address: str) -> Any:
    """Tell that somebody waits for what is worked out behind, as the page does; return how far it is."""
    job = "/".join(address.split("/")[:4])
    answer = client.post(f"{job}/searches", json.dumps({"address": address}), content_type="application/json")
    assert answer.status_code == 200, answer.content
    return answer.json()


def asked(client: Client, address: str) -> Any:
    """Ask as the page does: the first answer, and where that is to wait, what it waits for is begun."""
    answer = client.get(address)
    if answer.status_code == 202:
        begin(client, address)
    return answer
