"""The addresses of a job’s Days room."""

from django.urls import path

from nivelum.days import forecasts, programmes, setting, today

urlpatterns = [
    path("days/", today.today, name="days"),
    path("days/now/", today.today_now, name="days-now"),
    path("days/ask/", today.ask_forecast, name="ask-forecast"),
    path("days/programme/", programmes.programme, name="programme"),
    path("days/programme/now/", programmes.programme_now, name="programme-now"),
    path("days/programme/why/", programmes.programme_why, name="programme-why"),
    path("days/programme/tried/", programmes.programme_tried, name="programme-tried"),
    path("days/programme/said/<str:what>/", programmes.say_programme, name="say-programme"),
    path("days/programme.ics", programmes.programme_calendar, name="programme-calendar"),
    path("days/setting/", setting.setting, name="setting"),
    path("days/setting/now/", setting.setting_now, name="setting-now"),
    path("days/setting/<str:what>/", setting.record_warmth, name="record-warmth"),
    path("days/forecasts/", forecasts.forecasts, name="forecasts"),
    path("days/forecasts/brought/", forecasts.bring_forecast, name="bring-forecast"),
    path("days/forecasts/typed/", forecasts.type_forecast, name="type-forecast"),
]
