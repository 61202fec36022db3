"""Revisions kept compressed, as differences to an earlier one of the same palette where that is much smaller."""

import json

import django.db.models.deletion
import zstandard
from django.db import migrations, models

FURTHEST, TOGETHER = 20, 200


def packed_to(content, base):
    reach = max(17, (len(base) + len(content)).bit_length())
    parameters = zstandard.ZstdCompressionParameters.from_level(3, window_log=min(reach, zstandard.WINDOWLOG_MAX), write_checksum=1)
    dictionary = zstandard.ZstdCompressionDict(base, dict_type=zstandard.DICT_TYPE_RAWCONTENT) if base else None
    return zstandard.ZstdCompressor(dict_data=dictionary, compression_params=parameters).compress(content)


def pack_everything(apps, schema_editor):
    """Palette by palette, step by step; bytes are as `core/stored/packing.py` reads them."""
    alias = schema_editor.connection.alias
    revisions = apps.get_model("studio", "Revision").objects.using(alias)
    palettes = apps.get_model("studio", "Palette").objects.using(alias)
    changed, palette, base = [], None, None
    rows = revisions.order_by("palette_id", "number").only("palette_id", "number", "document", "links")
    for row in rows.iterator(chunk_size=TOGETHER):
        if row.palette_id != palette:
            palette, base = row.palette_id, None
        content = json.dumps({"document": row.document, "links": row.links}, ensure_ascii=False, separators=(",", ":")).encode()
        row.packed, row.base_id = packed_to(content, b""), None
        if base is not None and row.number - base[1] < FURTHEST:
            difference = packed_to(content, base[2])
            if len(difference) * 4 < len(row.packed):
                row.packed, row.base_id = difference, base[0]
        row.is_base = row.base_id is None
        if row.is_base:
            base = row.pk, row.number, content
        changed.append(row)
        if len(changed) == TOGETHER:
            revisions.bulk_update(changed, ["packed", "base", "is_base"])
            changed = []
    revisions.bulk_update(changed, ["packed", "base", "is_base"])
    taken = models.Subquery(
        revisions.filter(palette=models.OuterRef("pk")).order_by().values("palette").annotate(
            total=models.Sum(models.functions.Length("packed"))).values("total")
    )
    palettes.update(bytes=models.functions.Coalesce(taken, 0))


class Migration(migrations.Migration):
    dependencies = [("studio", "0010_sessions_of_artists")]

    operations = [
        migrations.AddField("revision", "packed", models.BinaryField(default=b""), preserve_default=False),
        # What is compressed already is not tried again.
        migrations.RunSQL("ALTER TABLE studio_revision ALTER COLUMN packed SET STORAGE EXTERNAL", migrations.RunSQL.noop),
        migrations.AddField("revision", "base", models.ForeignKey(
            "studio.revision", django.db.models.deletion.DO_NOTHING, null=True, db_constraint=False, db_index=False, related_name="+")),
        migrations.AddField("revision", "is_base", models.BooleanField(default=True)),
        migrations.RunPython(pack_everything),
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.RemoveField("revision", "document"),
        migrations.RemoveField("revision", "links"),
    ]
