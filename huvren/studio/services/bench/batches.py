"""Batches: one recipe applied to many pictures, as a job; its results as one zip."""

import csv
import io
import tempfile
import zipfile
from collections.abc import Sequence
from typing import IO
from uuid import UUID

from django.db import transaction

from huvren.core.errors import BadInput, Cancelled, HuvrenError
from huvren.core.formats import Document, writers_of
from huvren.core.palette import values
from huvren.core.palette.values import clean_name
from huvren.core.progress import Watch, part_of
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.stored.job import BATCH, BatchRequest
from huvren.studio.access import User, find, visible
from huvren.studio.models import Job, JobResult, JobState, Picture
from huvren.studio.services.bench.pictures import look_up, read_stored, stem
from huvren.studio.services.bench.reductions import figures_of
from huvren.studio.services.load import jobs
from huvren.studio.services.load.jobs import FilesMade, Turn

MOST_PICTURES = 500
IN_MEMORY = 32 * 1024 * 1024
FILES = (writers_of("picture")[0], writers_of("palette")[0])
"""What a batch makes of each picture: the usual format of each kind."""


def start(user: User, picture_ids: Sequence[UUID], recipe: ReduceRecipe, name: str = "") -> Job:
    """Reduce many pictures by one recipe, each to a palette of its own."""
    wanted = list(dict.fromkeys(picture_ids))
    if not wanted:
        raise BadInput("No picture is chosen. Choose at least one.")
    if len(wanted) > MOST_PICTURES:
        raise BadInput(f"A batch takes at most {MOST_PICTURES} pictures; that would be {len(wanted)}.")
    if CHOOSERS[recipe.chooser].needs == "palette":
        raise BadInput("Each picture of a batch gets a palette of its own, so there is none to take as it is. Take a fixed list.")
    rows = [find(user, Picture, picture_id) for picture_id in wanted]
    noun = "picture" if len(rows) == 1 else "pictures"
    called = clean_name(name, "recipe name")
    label = f"{len(rows)} {noun}, “{called}”" if called else f"{len(rows)} {noun}: {say(recipe)}"
    request = BatchRequest(pictures=[row.id for row in rows], recipe=recipe.model_copy(update={"marks": []}))
    return jobs.start(user, BATCHES, label, request)


def _reduced(picture: Picture, recipe: ReduceRecipe, position: int, watch: Watch) -> JobResult:
    watch(f"reading {picture.name}", 0.0)
    rgba = read_stored(picture)
    reduction = reduce_picture(rgba, recipe, watch=part_of(lambda _, share: watch(f"reducing {picture.name}", share), 0.2, 0.8))
    adopted = adopt(values.Palette(stem(picture.name)), reduction, recipe, f"batch:{picture.id}")
    place = {swatch.id: index for index, swatch in enumerate(adopted.palette.swatches)}
    document = Document(adopted.palette, (look_up([place[swatch_id] for swatch_id in adopted.table], reduction.indices),))
    watch(f"writing {picture.name}", 0.8)
    made = [entry.written(document) for entry in FILES]
    return JobResult(
        position=position, name=stem(picture.name), figures=figures_of(reduction), picture_file=made[0], palette_file=made[1]
    )


def _work(turn: Turn, wanted: BatchRequest) -> None:
    """Each picture's result is stored as soon as it is there; a later turn goes on behind the last."""
    recipe, ids = wanted.recipe, wanted.pictures
    made = set(JobResult.objects.filter(job=turn.job).values_list("position", flat=True))
    pictures = {row.id: row for row in visible(turn.job.owner, Picture).filter(id__in=ids)}
    for position, picture_id in enumerate(ids):
        if position in made:
            continue
        watch = part_of(turn.watch, position / len(ids), (position + 1) / len(ids))
        picture = pictures.get(picture_id)
        if picture is None:
            result = JobResult(position=position, name="A picture", problem="It is not on the shelf any more.")
        else:
            try:
                result = _reduced(picture, recipe, position, watch)
            except Cancelled:
                raise
            except HuvrenError as error:
                result = JobResult(position=position, name=stem(picture.name), problem=str(error)[:500])
        with transaction.atomic():
            turn.hold()
            result.job = turn.job
            result.save()
    problems = JobResult.objects.filter(job=turn.job).exclude(problem="").count()
    if problems == len(ids):
        first = JobResult.objects.filter(job=turn.job).first()
        JobResult.objects.filter(job=turn.job).delete()
        raise BadInput(f"None of the pictures could be reduced. {first.problem if first else ''}".strip())
    with transaction.atomic():
        turn.finish(FilesMade(len(ids) - problems, problems))


BATCHES = jobs.KINDS.register(jobs.JobKind("batch", BATCH, FilesMade, _work, pictures=lambda request: len(request.pictures)))


def _free(name: str, ending: str, taken: set[str]) -> str:
    plain = "".join("-" if c in '/\\:*?"<>|' or not c.isprintable() else c for c in name).strip(" .") or "picture"
    number = 1
    while (full := f"{plain}{'' if number == 1 else f' ({number})'}{ending}").lower() in taken:
        number += 1
    taken.add(full.lower())
    return full


def zipped(user: User, job_id: UUID) -> IO[bytes]:
    """A zip of what a batch has made: a picture and a palette file each, and a table of their figures."""
    job = find(user, Job, job_id)
    if job.kind != BATCHES.id or job.state in (JobState.WAITING, JobState.WORKING):
        raise BadInput("There is no zip yet. It can be fetched when the batch has ended.")
    target = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115  (the response closes it)
    table = io.StringIO()
    rows = csv.writer(table, lineterminator="\n")
    rows.writerow(["picture", "colors used", "distinct colors", "mean ΔEOK×100", "95 % under", "largest", "seen from afar", "note"])
    taken: set[str] = {"figures.csv"}
    with zipfile.ZipFile(target, "w") as archive:
        for result in JobResult.objects.filter(job=job).iterator(chunk_size=4):
            figures = result.figures
            if result.problem:
                rows.writerow([result.name, "", "", "", "", "", "", result.problem])
                continue
            name = _free(result.name, FILES[0].endings[0], taken)
            archive.writestr(name, bytes(result.picture_file))
            archive.writestr(_free(name.rsplit(".", 1)[0], FILES[1].endings[0], taken), bytes(result.palette_file))
            # A batch of before there was one has no figure from afar.
            keys = ("mean", "p95", "max", "afar")
            rounded = [round(float(figures[key]), 3) if figures.get(key) is not None else "" for key in keys]
            rows.writerow([name, figures["used"], figures["distinct"], *rounded, ""])
        if len(taken) == 1:
            raise BadInput("The batch made nothing before it ended.")
        archive.writestr("figures.csv", table.getvalue())
    target.seek(0)
    return target
