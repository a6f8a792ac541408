"""A job as the Yard shows it."""

from django import template

from nivelum.jobs.summaries import row

register = template.Library()
register.filter("yard_row", row)
