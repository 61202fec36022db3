"""What artists used lately: written after each heavy request, and no loss where the database falls over."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [("studio", "0007_announced_changes")]

    operations = [
        migrations.CreateModel(
            name="Worked",
            fields=[
                ("artist", models.BigIntegerField(primary_key=True, serialize=False)),
                ("seconds", models.FloatField()),
                ("at", models.DateTimeField()),
            ],
        ),
        migrations.RunSQL("ALTER TABLE studio_worked SET UNLOGGED", "ALTER TABLE studio_worked SET LOGGED"),
    ]
