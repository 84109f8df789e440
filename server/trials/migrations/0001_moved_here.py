"""Trials and decisions were rows of the logbook; the tables move here with their rows and guards."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True
    dependencies = [
        ("jobs", "0001_initial"),
        ("calibration", "0001_initial"),
        ("logbook", "0003_trials_leave"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='Trial',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('number', models.PositiveIntegerField()),
                        ('kind', models.CharField(default='start', max_length=20)),
                        ('start_number', models.PositiveIntegerField(default=1)),
                        ('observation', models.JSONField(null=True)),
                        ('ambient_c', models.FloatField(null=True)),
                        ('soak_h', models.FloatField(null=True)),
                        ('note', models.TextField(blank=True)),
                        ('coolant_c', models.FloatField()),
                        ('verdict', models.CharField(max_length=40)),
                        ('good', models.BooleanField()),
                        ('analysis', models.JSONField()),
                        ('created_at', models.DateTimeField(auto_now_add=True)),
                        ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                        ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='trials', to='jobs.job')),
                        ('log', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='trials', to='logbook.log')),
                        ('revision', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to='calibration.revision')),
                    ],
                    options={
                        'constraints': [models.UniqueConstraint(fields=('job', 'number'), name='trial_number')],
                    },
                ),
                migrations.CreateModel(
                    name='Decision',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('kind', models.CharField(help_text='accepted or declined', max_length=10)),
                        ('changes', models.JSONField(default=list)),
                        ('note', models.TextField(blank=True)),
                        ('created_at', models.DateTimeField(auto_now_add=True)),
                        ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                        ('revision', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, to='calibration.revision')),
                        ('trial', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='decision', to='trials.trial')),
                    ],
                    options={
                        'abstract': False,
                    },
                ),
            ]
        )
    ]
