"""Sessions know whose they are. Those that are open stay so."""

import django.db.models.deletion
from django.conf import settings
from django.contrib.sessions.backends.db import SessionStore
from django.db import migrations, models
from django.utils import timezone


def bring_over(apps, schema_editor):
    """What stands in Django's own table, which databases of before have."""
    signed_in, artists = apps.get_model("studio", "SignedIn"), apps.get_model("studio", "Artist")
    known = set(artists.objects.values_list("pk", flat=True))
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("SELECT to_regclass('django_session') IS NOT NULL")
        if not cursor.fetchone()[0]:
            return
        cursor.execute("SELECT session_key, session_data, expire_date FROM django_session WHERE expire_date > %s", [timezone.now()])
        rows = cursor.fetchall()
    store = SessionStore()
    for key, data, until in rows:
        artist = int(store.decode(data).get("_auth_user_id") or 0)
        signed_in.objects.create(session_key=key, session_data=data, expire_date=until, artist_id=artist if artist in known else None)


class Migration(migrations.Migration):

    dependencies = [("studio", "0009_bytes_of_jobs")]

    operations = [
        migrations.CreateModel(
            name="SignedIn",
            fields=[
                ("session_key", models.CharField(max_length=40, primary_key=True, serialize=False, verbose_name="session key")),
                ("session_data", models.TextField(verbose_name="session data")),
                ("expire_date", models.DateTimeField(db_index=True, verbose_name="expire date")),
                ("began", models.DateTimeField(null=True)),
                ("address", models.CharField(default="", max_length=64)),
                (
                    "artist",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.CASCADE, related_name="sessions", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
            options={"verbose_name": "session", "verbose_name_plural": "sessions", "abstract": False},
        ),
        migrations.RunPython(bring_over, migrations.RunPython.noop),
        migrations.RunSQL("DROP TABLE IF EXISTS django_session", migrations.RunSQL.noop),
    ]
