"""Circuits that were tagged, read or issued before keep the number they have now, with the letter of their board."""

from django.db import migrations

from mellow_span.core.model.numbers import letters

NUMBERED = ("pulled", "reading", "board_reading", "minor_work")


def keep(apps, schema):
    Job, Board, Circuit = (apps.get_model("jobs", name) for name in ("Job", "Board", "Circuit"))
    Number, Entry, Issue = apps.get_model("jobs", "Number"), apps.get_model("site", "Entry"), apps.get_model("site", "Issue")
    issued = set(Issue.objects.values_list("job", flat=True))
    for job in Job.objects.filter(numbered=0).iterator():
        told = set(Entry.objects.filter(job=job, kind__in=NUMBERED).values_list("subject", flat=True))
        if job.pk not in issued and not told:
            continue
        boards, rows = list(Board.objects.filter(job=job).order_by("position", "id")), []
        for board, letter in zip(boards, letters(len(boards)), strict=True):
            way, mine = 1, []
            for circuit in Circuit.objects.filter(board=board).order_by("position", "id"):
                if job.pk in issued or circuit.pk in told:
                    mine.append(Number(job=job, part=circuit.pk, number=f"{letter}{way}"))
                way += circuit.phases
            if mine or board.pk in told or job.pk in issued:
                rows += [Number(job=job, part=board.pk, number=letter), *mine]
        Number.objects.bulk_create(rows)
        Job.objects.filter(pk=job.pk).update(numbered=len(rows))


class Migration(migrations.Migration):

    dependencies = [
        ("site", "0003_what_entries_are_about"),
        ("jobs", "0005_numbers_that_stay"),
    ]

    operations = [migrations.RunPython(keep, migrations.RunPython.noop)]
