"""Batches: one recipe applied to many pictures, as a job; its results as one zip."""

import csv
import io
import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import IO
from uuid import UUID

from django.db import transaction

from huvren.core.errors import BadInput, Cancelled, HuvrenError
from huvren.core.formats import Document, writers_of
from huvren.core.formats.file_names import free_file_name
from huvren.core.formats.table_cells import as_text
from huvren.core.palette import values
from huvren.core.palette.values import clean_name
from huvren.core.progress import Watch, part_of
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.choosers import CHOOSERS
from huvren.core.reduction.recipe import ReduceRecipe, say
from huvren.core.reduction.reduce import reduce_picture
from huvren.core.stored.job import BATCH, BatchRequest
from huvren.studio.access import Action, User, find, visible
from huvren.studio.models import Job, JobResult, JobState, Picture
from huvren.studio.services.bench.pictures import look_up, read_stored, stem
from huvren.studio.services.bench.reductions import figures_of
from huvren.studio.services.load import jobs, quotas
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


CALLED_OFF = "Called off."


def _left(job: Job, count: int) -> Iterator[int]:
    """Places of a batch without a result, one after the other, as long as there are any: one may be asked for once more."""
    while True:
        made = set(JobResult.objects.filter(job=job).values_list("position", flat=True))
        place = next((place for place in range(count) if place not in made), None)
        if place is None:
            return
        yield place


def _work(turn: Turn, wanted: BatchRequest) -> None:
    """Each picture's result is stored as soon as it is there; a later turn goes on behind the last."""
    ids = wanted.pictures
    results = JobResult.objects.filter(job=turn.job)
    # One may be asked for once more in the last moment: the batch ends while its row is held and every picture has a result.
    while True:
        for position in _left(turn.job, len(ids)):
            _work_on(turn, wanted, position)
        problems, off = results.exclude(problem="").count(), results.filter(problem=CALLED_OFF).count()
        if problems == len(ids):
            refused = results.exclude(problem="").exclude(problem=CALLED_OFF)
            first = refused.first()
            if first is None:
                raise BadInput("Every picture was called off.")
            refused.delete()
            raise BadInput(f"None of the pictures could be reduced. {first.problem}".strip())
        with transaction.atomic():
            turn.hold()
            if results.count() == len(ids):
                turn.finish(FilesMade(len(ids) - problems, problems - off, off))
                return


def _work_on(turn: Turn, wanted: BatchRequest, position: int) -> None:
    """Reduce one picture and store what came of it, unless it was called off meanwhile."""
    ids = wanted.pictures
    watch = part_of(turn.watch, position / len(ids), (position + 1) / len(ids))
    picture = visible(turn.job.owner, Picture).filter(id=ids[position]).first()
    if picture is None:
        result = JobResult(position=position, name="A picture", problem="It is not on the shelf any more.")
    else:
        try:
            result = _reduced(picture, wanted.recipe, position, watch)
        except Cancelled:
            raise
        except HuvrenError as error:
            result = JobResult(position=position, name=stem(picture.name), problem=str(error)[:500])
    with transaction.atomic():
        turn.hold()
        if not JobResult.objects.filter(job=turn.job, position=position).exists():
            size = len(result.picture_file) + len(result.palette_file)
            quotas.check_bytes(turn.job.owner_id, size)
            result.job = turn.job
            result.save()
            jobs.count_more(turn.job.pk, size)


@dataclass(frozen=True)
class Member:
    """A picture of a batch, and what became of it. problem : why there is no result; empty where there is one or it is to come."""

    position: int
    picture: UUID
    name: str
    state: str
    problem: str


def members(user: User, job_id: UUID) -> tuple[list[Member], ReduceRecipe]:
    """The pictures of a batch in their order, and the recipe. A picture that is gone is named by its result alone."""
    job = _batch(user, job_id)
    request = BATCHES.request_of(job)
    results = {row.position: row for row in JobResult.objects.filter(job=job).defer("picture_file", "palette_file")}
    names = dict(visible(user, Picture).filter(id__in=request.pictures).values_list("id", "name"))
    made = []
    for position, picture in enumerate(request.pictures):
        result = results.get(position)
        state = "waiting" if result is None else "done" if not result.problem else "off" if result.problem == CALLED_OFF else "failed"
        name = names.get(picture) or (result.name if result else "A picture")
        made.append(Member(position, picture, name, state, result.problem if result else ""))
    return made, request.recipe


def _batch(user: User, job_id: UUID, action: Action = "see", lock: bool = False) -> Job:
    job = find(user, Job, job_id, action, lock=lock)
    if job.kind != BATCHES.id:
        raise BadInput("That work is no batch of pictures.")
    return job


@transaction.atomic
def call_off(user: User, job_id: UUID, position: int) -> None:
    """Leave one picture of a batch out that has no result yet."""
    job = _batch(user, job_id, "change", lock=True)
    ids = BATCHES.request_of(job).pictures
    if not 0 <= position < len(ids):
        raise BadInput(f"The batch has {len(ids)} pictures; there is none at place {position}.")
    if JobResult.objects.filter(job=job, position=position).exists():
        raise BadInput("That picture is finished already.")
    name = visible(user, Picture).filter(pk=ids[position]).values_list("name", flat=True).first() or "A picture"
    JobResult.objects.create(job=job, position=position, name=stem(name), problem=CALLED_OFF)


@transaction.atomic
def once_more(user: User, job_id: UUID, position: int) -> None:
    """Try one picture again that was called off or could not be reduced; a batch that has ended goes on with it."""
    job = _batch(user, job_id, "change", lock=True)
    gone, _ = JobResult.objects.filter(job=job, position=position).exclude(problem="").delete()
    if not gone:
        raise BadInput("That picture was neither called off nor refused.")
    jobs.go_on(job)


BATCHES = jobs.KINDS.register(jobs.JobKind("batch", BATCH, FilesMade, _work, pictures=lambda request: len(request.pictures)))


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
                rows.writerow([as_text(result.name), "", "", "", "", "", "", as_text(result.problem)])
                continue
            name = free_file_name(result.name, FILES[0].endings[0], taken)
            archive.writestr(name, bytes(result.picture_file))
            archive.writestr(free_file_name(name.rsplit(".", 1)[0], FILES[1].endings[0], taken), bytes(result.palette_file))
            # A batch of before there was one has no figure from afar.
            keys = ("mean", "p95", "max", "afar")
            rounded = [round(float(figures[key]), 3) if figures.get(key) is not None else "" for key in keys]
            rows.writerow([as_text(name), figures["used"], figures["distinct"], *rounded, ""])
        if len(taken) == 1:
            raise BadInput("The batch made nothing before it ended.")
        archive.writestr("figures.csv", table.getvalue())
    target.seek(0)
    return target
