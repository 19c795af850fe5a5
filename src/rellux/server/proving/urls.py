from django.urls import path

from . import calendar_views, views

urlpatterns = [
    path("rigs/<slug:slug>/proving", views.Proving.as_view()),
    path("rigs/<slug:slug>/proving/steps", views.ProvingSteps.as_view()),
    path("rigs/<slug:slug>/proving/stages", views.ProvingStages.as_view()),
    path("rigs/<slug:slug>/proving/bisect", views.ProvingBisect.as_view()),
    path("rigs/<slug:slug>/proving/take", views.ProvingTake.as_view()),
    path("proving.ics", calendar_views.ProvingCalendar.as_view()),
]
