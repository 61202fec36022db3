"""What is kept. Every object has an owner; documents of a palette are immutable revisions."""

import uuid
from collections.abc import Callable
from typing import Any, ClassVar

from django.conf import settings
from django.contrib.auth.models import AbstractUser, UserManager
from django.contrib.postgres.fields import ArrayField
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models

from huvren.core.names import folded, sort_key
from huvren.studio.prepared import Prepared


class OwnedBy(models.ForeignKey):  # type: ignore[type-arg]
    """A foreign key whose row goes with the row that it names, removed by the database itself in the same statement.

    Django would fetch the keys of everything below first, which for a shelf of many years are hundreds of thousands. The
    constraint is made by a migration (`0005`); a new field of this kind needs the like.
    """

    def __init__(self, to: Any, on_delete: Any = models.DO_NOTHING, **options: Any) -> None:
        super().__init__(to, on_delete, **options)

    def deconstruct(self) -> Any:
        """The column is that of a plain foreign key; migrations need not know more."""
        name, _, arguments, options = super().deconstruct()
        return name, "django.db.models.ForeignKey", arguments, options


class Derived(models.TextField):  # type: ignore[type-arg]
    """A text that is worked out from the rest of its row whenever the row is saved. of : how."""

    def __init__(self, *args: Any, of: Callable[[Any], str] | None = None, **options: Any) -> None:
        self.of = of
        super().__init__(*args, **options)

    def pre_save(self, model_instance: Any, add: bool) -> Any:
        if self.of is not None:
            setattr(model_instance, self.attname, self.of(model_instance))
        return super().pre_save(model_instance, add)

    def deconstruct(self) -> Any:
        """The column is that of a TextField; migrations need not know more."""
        name, _, arguments, options = super().deconstruct()
        return name, "django.db.models.TextField", arguments, options


def _sort_key() -> Derived:
    return Derived(default="", db_collation="C", of=lambda row: sort_key(row.name))


class Artists(UserManager):  # type: ignore[type-arg]
    """Django asks for somebody by their key with every request."""

    use_in_migrations = False

    def get(self, *args: Any, **kwargs: Any) -> Any:
        if args or list(kwargs) != ["pk"] or not isinstance(kwargs["pk"], int):
            return super().get(*args, **kwargs)
        found = ARTIST(kwargs["pk"])
        return found[0] if found else super().get(pk=kwargs["pk"])


class Artist(AbstractUser):
    """Who works here. A model of our own, so that it can get more than Django's has without moving every row."""

    objects: ClassVar["UserManager[Artist]"] = Artists()


ARTIST = Prepared(lambda key: Artist.objects.filter(pk=key), int)
"""Somebody, by their key."""


class SignedIn(AbstractBaseSession):
    """A session: where somebody is signed in. artist : whose it is, or None for a visitor's; see `sessions.py`."""

    artist = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="sessions")
    began = models.DateTimeField(null=True)
    address = models.CharField(max_length=64, default="")

    class Meta(AbstractBaseSession.Meta):
        abstract = False


class FailedSignIn(models.Model):
    """How often a wrong password was tried, by address, by name and by both; see `sign_in.py`."""

    key = models.CharField(max_length=250, primary_key=True)
    count = models.PositiveIntegerField()
    last = models.DateTimeField(db_index=True)


class Asked(models.Model):
    """How often an artist asked for something in the present minute; see `api/rates.py`."""

    key = models.CharField(max_length=60, primary_key=True)
    minute = models.BigIntegerField()
    count = models.PositiveIntegerField()


class Worked(models.Model):
    """How long an artist was at work lately in heavy requests, on all computers; see `services/load/shared.py`."""

    artist = models.BigIntegerField(primary_key=True)
    seconds = models.FloatField()
    at = models.DateTimeField()


class StoredBytes(models.Model):
    """File contents, once per SHA-256, whoever brought them."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    data = models.BinaryField()
    media_type = models.CharField(max_length=80)
    created = models.DateTimeField(auto_now_add=True)


class Picture(models.Model):
    """A picture of an artist. `display` is what a browser shows: the file itself, or an sRGB copy standing upright."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="pictures")
    name = models.CharField(max_length=200)
    original = models.ForeignKey(StoredBytes, on_delete=models.PROTECT, related_name="+")
    display = models.ForeignKey(StoredBytes, on_delete=models.PROTECT, related_name="+")
    thumbnail = models.ForeignKey(StoredBytes, on_delete=models.PROTECT, related_name="+")
    format = models.CharField(max_length=20)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    distinct = models.PositiveIntegerField(help_text="distinct opaque colors")
    bytes = models.BigIntegerField(default=0, help_text="of its files and its index maps together, for the artist's quota")
    notes = models.JSONField(default=list)
    proofs = models.JSONField(default=list, help_text="recipes of its proof sheet")
    searched = Derived(default="", of=lambda row: folded(row.name), help_text="its name as it is searched for")
    sort_key = _sort_key()
    favorite = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    trashed = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-created"]


class IndexMap(models.Model):
    """Which index each pixel has: width·height bytes, gzipped. Never changed; revisions say what an index means."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    picture = OwnedBy(Picture, related_name="index_maps")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    data = models.BinaryField()
    tiles = models.BinaryField(default=bytes, help_text="a gray PNG, a pixel a tile: what a tile limit cost; empty for none")
    created = models.DateTimeField(auto_now_add=True)


class KeptRecipe(models.Model):
    """A recipe of a reduction that an artist named, to use on other pictures."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=200)
    recipe = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        verbose_name = "recipe"
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_recipe_per_name")]


class LimitSet(models.Model):
    """Limits of checks that an artist named, to go by on other palettes. limits : by check and by name."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="limit_sets")
    name = models.CharField(max_length=200)
    limits = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        verbose_name = "set of limits"
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_limit_set_per_name")]


class JobState(models.TextChoices):
    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job(models.Model):
    """Long work that an artist waits for. The queue carries only its id; what it shall do and how it stands is here.

    request : what the kind of job needs, see `services.jobs`. attempts : how often a worker took it up since it was
    asked for; a worker whose number is not the newest any more keeps nothing.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20)
    label = models.CharField(max_length=500)
    state = models.CharField(max_length=12, choices=JobState, default=JobState.WAITING)
    share = models.FloatField(default=0, help_text="0..1")
    step = models.CharField(max_length=500, blank=True, help_text="what is being done, or why it ended")
    request = models.JSONField()
    attempts = models.PositiveIntegerField(default=0)
    palette = OwnedBy("Palette", null=True, related_name="jobs")
    bytes = models.BigIntegerField(default=0, help_text="of the file it works on and of what it made, for the artist's quota")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-created"]


class JobFile(models.Model):
    """A piece of the file that a job works on, as it was sent."""

    job = OwnedBy(Job, related_name="pieces")
    position = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["job", "position"], name="one_piece_per_position")]


class JobResult(models.Model):
    """What a batch made of one of its pictures: files, or the sentence that says why there are none."""

    job = OwnedBy(Job, related_name="results")
    position = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    figures = models.JSONField(default=dict)
    problem = models.CharField(max_length=500, blank=True)
    picture_file = models.BinaryField(default=bytes, help_text="an indexed PNG")
    palette_file = models.BinaryField(default=bytes, help_text="its palette as .gpl")

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["job", "position"], name="one_result_per_picture")]


class Palette(models.Model):
    """A palette of an artist; its contents are those of the head revision.

    name to painted : its card, what the shelf shows and searches in. It is written with the head, in the same transaction, by
    `services.cards`; the shelf reads no documents.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="palettes")
    name = models.CharField(max_length=200)
    head = models.PositiveIntegerField(default=1)
    tags = models.JSONField(default=list)
    count = models.PositiveIntegerField(default=0, help_text="swatches")
    strip = models.TextField(default="", help_text="the first swatches as rrggbbaa one after the other")
    colors = models.BinaryField(default=bytes, help_text="all opaque swatches, three 8-bit sRGB channels each, to search by")
    searched = models.TextField(default="", help_text="its name, its tags and the names of all swatches, a line each, to search in")
    tag_words = models.TextField(default="", help_text="its tags alone, a line each, to search in")
    sort_key = _sort_key()
    painted = models.JSONField(default=list, help_text="ids of the linked pictures")
    favorite = models.BooleanField(default=False)
    origin = models.UUIDField(null=True, blank=True, help_text="its id in the library that an archive came from")
    once = ArrayField(models.UUIDField(), default=list, help_text="ids of the last wishes that were carried out on it")
    bytes = models.BigIntegerField(default=0, help_text="of all its revisions as they are stored, for the artist's quota")
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)
    trashed = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-updated"]
        indexes = [
            models.Index(
                fields=["owner", "-favorite", "-updated", "-id"], name="shelf_in_its_order", condition=models.Q(trashed__isnull=True)
            )
        ]


class RampCard(models.Model):
    """A ramp that a palette keeps, as the shelf shows it; written with the palette's card, where it changes."""

    palette = OwnedBy(Palette, related_name="ramp_cards")
    position = models.PositiveIntegerField()
    ramp = models.TextField(help_text="its id within the palette")
    name = models.TextField()
    tags = models.JSONField(default=list)
    strip = models.TextField(help_text="64 colors, rrggbbaa one after the other")
    searched = models.TextField(default="", help_text="its name and its tags, a line each")
    tag_words = models.TextField(default="")
    sort_key = _sort_key()

    class Meta:
        ordering = ["palette", "position"]
        verbose_name = "ramp"


class Revision(models.Model):
    """One state of a palette. `parent` is the revision it was made from; undo goes there.

    packed : its document (`palette_to_document`) and its links (one for each reduced picture, see `core/stored/link.py`), as
    `core/stored/packing.py` keeps them. base : the revision of the same palette that these bytes are a difference to; None where they
    stand by themselves. is_base : whether others may be differences to it. Read and written by `services/shelf/revisions.py` alone.
    """

    palette = OwnedBy(Palette, related_name="revisions")
    number = models.PositiveIntegerField()
    parent = models.PositiveIntegerField(null=True)
    label = models.CharField(max_length=500)
    packed = models.BinaryField()
    base = models.ForeignKey("self", models.DO_NOTHING, null=True, db_constraint=False, db_index=False, related_name="+")
    is_base = models.BooleanField(default=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["palette", "number"], name="one_revision_per_number")]


class Kind(models.TextChoices):
    """What a revision may lead to."""

    PICTURE = "picture"
    INDEX_MAP = "index map"
    PALETTE = "palette"
    RAMP = "ramp"


class Reference(models.Model):
    """That a revision leads to something: a picture that it paints, a map of it, a palette that its checks go by, a ramp it keeps.

    Written with the revision, in the same transaction. What may be removed, and where something is used, is asked here and never
    of documents. palette : of the revision, so that those of one are found without a join.
    """

    revision = OwnedBy(Revision, related_name="references")
    palette = models.ForeignKey(
        Palette, on_delete=models.DO_NOTHING, db_constraint=False, db_index=False, related_name="references"
    )  # fmt: skip
    kind = models.CharField(max_length=10, choices=Kind)
    target = models.UUIDField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["revision", "kind", "target"], name="one_reference_each")]
        indexes = [models.Index(fields=["target", "kind", "palette"], name="used_in")]
