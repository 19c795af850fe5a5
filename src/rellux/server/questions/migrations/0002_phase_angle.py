from django.db import migrations

BEFORE, SINCE = "firing", "phase_angle"


def renamed(before, since):
    def rename(apps, schema_editor):
        apps.get_model("questions", "Kept").objects.filter(question=before).update(question=since)

    return rename


class Migration(migrations.Migration):
    dependencies = [("questions", "0001_initial")]

    operations = [migrations.RunPython(renamed(BEFORE, SINCE), renamed(SINCE, BEFORE))]
