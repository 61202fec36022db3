"""Artists have a manager of their own; nothing in the database changes."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("studio", "0012_cards_to_be_searched")]

    operations = [migrations.AlterModelManagers(name="artist", managers=[])]
