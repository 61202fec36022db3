from django.db import migrations, models

# What is stored already is looked through once.
FILL = r"""
UPDATE studio_palette SET words = COALESCE(
  (SELECT string_agg(swatch ->> 'name', E'\n') FROM jsonb_array_elements(studio_revision.document -> 'swatches') AS swatch), ''
)
FROM studio_revision
WHERE studio_revision.palette_id = studio_palette.id AND studio_revision.number = studio_palette.head
"""


class Migration(migrations.Migration):

    dependencies = [("studio", "0005_references")]

    operations = [
        migrations.AddField(
            model_name="palette",
            name="words",
            field=models.TextField(default="", help_text="the names of all swatches, a line each, to search by"),
        ),
        migrations.RunSQL(FILL, migrations.RunSQL.noop),
    ]
