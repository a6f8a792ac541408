from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_summaries")]

    operations = [migrations.AddField("job", "is_pattern", models.BooleanField(default=False))]
