"""Training seasons: rows that are written once."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from server.config.append_only import guard


class Migration(migrations.Migration):

    initial = True

    dependencies = [
        ('jobs', '0001_initial'),
        ('trials', '0002_weighing'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Season',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('scenario', models.JSONField()),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                ('job', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='season', to='jobs.job')),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Ending',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('report', models.JSONField()),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('season', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='ending', to='trainer.season')),
            ],
            options={
                'abstract': False,
            },
        ),
        migrations.CreateModel(
            name='Step',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveIntegerField()),
                ('day', models.PositiveIntegerField()),
                ('kind', models.CharField(help_text='cold, half-warm, hot, look or night', max_length=10)),
                ('cause', models.CharField(blank=True, max_length=40)),
                ('found', models.CharField(blank=True, help_text='the fault that was mended', max_length=40)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('season', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='trainer.season')),
                ('trial', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='season_step', to='trials.trial')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('season', 'number'), name='season_step')],
            },
        ),
        *(
            migrations.RunSQL(guard(f"trainer_{name}"), f"DROP TRIGGER trainer_{name}_append_only")
            for name in ("season", "step", "ending")
        ),
    ]
