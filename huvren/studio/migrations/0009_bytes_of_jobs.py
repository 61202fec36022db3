"""What jobs keep is counted too: the file that was sent for one, and what a batch made. Files of ended jobs go."""

from django.db import migrations, models

FILES = """
DELETE FROM studio_jobfile WHERE job_id IN (SELECT id FROM studio_job WHERE state NOT IN ('waiting', 'working'))
"""
COUNT = """
UPDATE studio_job AS j SET bytes =
  (SELECT coalesce(sum(octet_length(f.data)), 0) FROM studio_jobfile f WHERE f.job_id = j.id)
  + (SELECT coalesce(sum(octet_length(r.picture_file) + octet_length(r.palette_file)), 0) FROM studio_jobresult r WHERE r.job_id = j.id)
"""


class Migration(migrations.Migration):

    dependencies = [("studio", "0008_worked")]

    operations = [
        migrations.AddField(
            model_name="job",
            name="bytes",
            field=models.BigIntegerField(default=0, help_text="of the file it works on and of what it made, for the artist's quota"),
        ),
        migrations.RunSQL(FILES, migrations.RunSQL.noop),
        migrations.RunSQL(COUNT, migrations.RunSQL.noop),
    ]
