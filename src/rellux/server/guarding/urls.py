from django.urls import path

from . import alarm_views, proof_views, run_views, views

urlpatterns = [
    path("rigs/<slug:slug>/guarding", views.Guarding.as_view()),
    path("rigs/<slug:slug>/guarding/preview", views.GuardingPreview.as_view()),
    path("rigs/<slug:slug>/guarding/fuses", views.Fuses.as_view()),
    path("rigs/<slug:slug>/guarding/table", views.TruthTable.as_view()),
    path("rigs/<slug:slug>/guarding/alarms", alarm_views.RigAlarms.as_view()),
    path("rigs/<slug:slug>/guarding/proof", proof_views.ProofDetail.as_view()),
    path("rigs/<slug:slug>/guarding/runs/<int:run>", run_views.GuardingRun.as_view()),
]
