from django.urls import path

from . import forecast_views, programme_views, run_views, views

urlpatterns = [
    path("rigs/<slug:slug>/profiles", views.Profiles.as_view()),
    path("rigs/<slug:slug>/profiles-build", views.ProfileBuild.as_view()),
    path("rigs/<slug:slug>/profiles-read", views.ProfileRead.as_view()),
    path("rigs/<slug:slug>/profiles-forecast", forecast_views.Forecast.as_view()),
    path("rigs/<slug:slug>/profiles-fastest", forecast_views.Fastest.as_view()),
    path("rigs/<slug:slug>/profiles-table", forecast_views.Table.as_view()),
    path("rigs/<slug:slug>/profiles-forms", views.ProfileForms.as_view()),
    path("rigs/<slug:slug>/profiles-firmware", forecast_views.Firmware.as_view()),
    path("rigs/<slug:slug>/profiles/<slug:key>", views.ProfileDetail.as_view()),
    path("rigs/<slug:slug>/profiles/<slug:key>/remove", views.ProfileRemove.as_view()),
    path("rigs/<slug:slug>/profiles/<slug:key>/restore", views.ProfileRestore.as_view()),
    path("rigs/<slug:slug>/profiles/<slug:key>/file", views.ProfileFile.as_view()),
    path("rigs/<slug:slug>/programme", programme_views.ProgrammeDetail.as_view()),
    path("rigs/<slug:slug>/programme/ask", programme_views.ProgrammeAsk.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/profile", run_views.RunProfile.as_view()),
]
