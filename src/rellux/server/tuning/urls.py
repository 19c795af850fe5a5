from django.urls import path

from . import relay_views, trying, views

urlpatterns = [
    path("rigs/<slug:slug>/tuning", views.Tuning.as_view()),
    path("rigs/<slug:slug>/tuning/identify", views.IdentifyRun.as_view()),
    path("rigs/<slug:slug>/tuning/accept", views.AcceptTuning.as_view()),
    path("rigs/<slug:slug>/tuning/trials", trying.TryTrials.as_view()),
    path("rigs/<slug:slug>/tuning/relay", relay_views.RelayTests.as_view()),
    path("rigs/<slug:slug>/tuning/try", trying.TryByHand.as_view()),
]
