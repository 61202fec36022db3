from django.db import migrations

# Whatever changes a palette or a picture announces it, in whatever way it comes about: from the interface, a job, an archive or by hand.
# What is the same is announced once for each transaction.
ANNOUNCE = r"""
CREATE FUNCTION huvren_announce() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  changed record;
  stepped boolean;
BEGIN
  IF TG_OP = 'DELETE' THEN changed := OLD; ELSE changed := NEW; END IF;
  stepped := TG_TABLE_NAME = 'studio_palette' AND TG_OP = 'UPDATE';
  IF stepped THEN stepped := to_jsonb(NEW) -> 'head' IS DISTINCT FROM to_jsonb(OLD) -> 'head'; END IF;
  IF stepped THEN
    PERFORM pg_notify('huvren_changes', json_build_object('owner', changed.owner_id, 'palette', changed.id, 'revision', to_jsonb(NEW) -> 'head')::text);
  ELSE
    PERFORM pg_notify('huvren_changes', json_build_object('owner', changed.owner_id)::text);
  END IF;
  RETURN NULL;
END
$$;
CREATE TRIGGER palette_announced AFTER INSERT OR DELETE OR UPDATE OF head, name, favorite, trashed ON studio_palette
  FOR EACH ROW EXECUTE FUNCTION huvren_announce();
CREATE TRIGGER picture_announced AFTER INSERT OR DELETE OR UPDATE OF name, favorite, trashed ON studio_picture
  FOR EACH ROW EXECUTE FUNCTION huvren_announce();
"""
SILENCE = """
DROP TRIGGER palette_announced ON studio_palette;
DROP TRIGGER picture_announced ON studio_picture;
DROP FUNCTION huvren_announce();
"""


class Migration(migrations.Migration):

    dependencies = [("studio", "0006_words_of_cards")]

    operations = [migrations.RunSQL(ANNOUNCE, SILENCE)]
