"""The addresses of a job’s Ground room."""

from django.urls import path

from nivelum.readings.views import book, ground, sheet, surface

urlpatterns = [
    path("ground/", ground.ground, name="ground"),
    path("ground/now/", ground.ground_now, name="ground-now"),
    path("ground/set-up/", ground.set_up, name="set-up"),
    path("ground/readings/", ground.reading, name="reading"),
    path("ground/fills/", ground.fill, name="fill"),
    path("ground/strikes/", ground.strike, name="strike"),
    path("ground/hold/", ground.hold, name="hold"),
    path("ground/sights/", ground.sight, name="sight"),
    path("ground/falls/", ground.fall, name="fall"),
    path("ground/corrections/", ground.correct, name="correct"),
    path("ground/knocks/", ground.disturb, name="disturb"),
    path("ground/surface/", surface.surface, name="surface"),
    path("ground/book/", book.book, name="book"),
    path("ground/sheet.json", sheet.sheet, name="field-sheet"),
    path("ground/targets/", book.targets, name="targets"),
]
