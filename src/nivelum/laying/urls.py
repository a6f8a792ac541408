"""The addresses of a job’s Laying room."""

from django.urls import path

from nivelum.laying import courses, cuts, files, layouts, packs

urlpatterns = [
    path("laying/", layouts.layout, name="layout"),
    path("laying/now/", layouts.layout_now, name="layout-now"),
    path("laying/best/", layouts.layout_best, name="layout-best"),
    path("laying/chosen/", layouts.choose_layout, name="choose-layout"),
    path("laying/shares/", layouts.share_pieces, name="share-pieces"),
    path("laying/courses/", courses.courses, name="courses"),
    path("laying/courses/now/", courses.courses_now, name="courses-now"),
    path("laying/courses/tapes/", courses.tape_course, name="tape-course"),
    path("laying/courses/<str:what>/", courses.course_work, name="course-work"),
    path("laying/cuts/", cuts.cuts, name="cuts"),
    path("laying/cuts/now/", cuts.cuts_now, name="cuts-now"),
    path("laying/cuts/done/", cuts.piece_cut, name="piece-cut"),
    path("laying/spares/", packs.spares_left, name="spares-left"),
    path("laying/packs/", packs.packs, name="packs"),
    path("laying/packs/opened/", packs.pack_opened, name="pack-opened"),
    path("laying/packs/emptied/", packs.pack_emptied, name="pack-emptied"),
    path("laying/layout.<str:ending>", files.layout_file, name="layout-file"),
]
