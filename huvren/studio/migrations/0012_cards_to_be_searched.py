"""Cards are searched and sorted by the database: what they are found by stands in columns, and kept ramps have rows of their own."""

import django.db.models.deletion
from django.db import migrations, models

from huvren.core.names import folded, sort_key
from huvren.studio.services.shelf.cards import lines, searchable_ramp

TOGETHER = 500


def fill(apps, schema_editor):
    """By the functions that write them today, so that old and new are found alike."""
    alias = schema_editor.connection.alias
    palettes = apps.get_model("studio", "Palette").objects.using(alias)
    pictures = apps.get_model("studio", "Picture").objects.using(alias)
    RampCard = apps.get_model("studio", "RampCard")
    changed = []
    written = ["searched", "tag_words", "sort_key"]
    for row in palettes.only("name", "tags", "words", "ramps").iterator(chunk_size=TOGETHER):
        row.searched, row.tag_words = lines((row.name, *row.tags, row.words)), lines(row.tags)
        row.sort_key = sort_key(row.name)
        RampCard.objects.using(alias).bulk_create(
            RampCard(
                palette=row, position=place, ramp=ramp["id"], name=ramp["name"], tags=ramp["tags"], strip=ramp["strip"],
                sort_key=sort_key(ramp["name"]), **searchable_ramp(ramp),
            )
            for place, ramp in enumerate(row.ramps)
        )
        changed.append(row)
        if len(changed) == TOGETHER:
            palettes.bulk_update(changed, written)
            changed = []
    palettes.bulk_update(changed, written)
    changed = []
    for row in pictures.only("name").iterator(chunk_size=TOGETHER):
        row.searched, row.sort_key = folded(row.name), sort_key(row.name)
        changed.append(row)
        if len(changed) == TOGETHER:
            pictures.bulk_update(changed, ["searched", "sort_key"])
            changed = []
    pictures.bulk_update(changed, ["searched", "sort_key"])


class Migration(migrations.Migration):
    dependencies = [("studio", "0011_packed_revisions")]

    operations = [
        migrations.AddField("palette", "searched", models.TextField(
            default="", help_text="its name, its tags and the names of all swatches, a line each, to search in")),
        migrations.AddField("palette", "tag_words", models.TextField(default="", help_text="its tags alone, a line each, to search in")),
        migrations.AddField("palette", "sort_key", models.TextField(db_collation="C", default="")),
        migrations.AddField("picture", "searched", models.TextField(default="", help_text="its name as it is searched for")),
        migrations.AddField("picture", "sort_key", models.TextField(db_collation="C", default="")),
        migrations.CreateModel(
            "RampCard",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("position", models.PositiveIntegerField()),
                ("ramp", models.TextField(help_text="its id within the palette")),
                ("name", models.TextField()),
                ("tags", models.JSONField(default=list)),
                ("strip", models.TextField(help_text="64 colors, rrggbbaa one after the other")),
                ("searched", models.TextField(default="", help_text="its name and its tags, a line each")),
                ("tag_words", models.TextField(default="")),
                ("sort_key", models.TextField(db_collation="C", default="")),
                ("palette", models.ForeignKey("studio.palette", django.db.models.deletion.DO_NOTHING, related_name="ramp_cards", db_constraint=False)),
            ],
            options={"verbose_name": "ramp", "ordering": ["palette", "position"]},
        ),
        # The rows go with their palette, by the database itself.
        migrations.RunSQL(
            'ALTER TABLE studio_rampcard ADD CONSTRAINT studio_rampcard_palette_id_owned FOREIGN KEY ("palette_id") '
            'REFERENCES studio_palette ("id") ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED',
            migrations.RunSQL.noop,
            state_operations=[
                migrations.AlterField("rampcard", "palette", models.ForeignKey(
                    "studio.palette", django.db.models.deletion.DO_NOTHING, related_name="ramp_cards")),
            ],
        ),
        migrations.RunPython(fill),
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.RemoveField("palette", "words"),
        migrations.RemoveField("palette", "ramps"),
        migrations.RemoveIndex("palette", "shelf_by_date"),
        migrations.AddIndex("palette", models.Index(
            fields=["owner", "-favorite", "-updated", "-id"], name="shelf_in_its_order", condition=models.Q(trashed__isnull=True))),
    ]
