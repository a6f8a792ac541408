"""What is done at each stage, as JSON values: hours at the pace of the table, and kit."""

from typing import Any

from groundwork.labour.labour import Labour
from groundwork.measures import Unit


def labour_data(labour: Labour, unit: Unit) -> dict[str, Any]:
    """Every task with what is done in an hour and its hours, hours as they were written down, kit by stage."""
    return {
        "hours": [
            {
                "stage": task.stage,
                "what": task.done.rate.key,
                "says": task.done.says.text(unit),
                "amount": round(task.done.amount, 3),
                "per": task.done.rate.per,
                "in_an_hour": round(task.done.rate.amount, 3),
                "hours": round(task.hours, 2),
            }
            for task in labour.tasks({})
        ],
        "worked": {stage: round(hours, 2) for stage, hours in labour.worked.items()},
        "kit": [{"stage": item.stage, "what": item.what, "hire": item.hire} for item in labour.kit],
    }
