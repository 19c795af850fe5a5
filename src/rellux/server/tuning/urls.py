from django.urls import path

from . import complaint_views, driven_views, ledger_views, relay_views, trying, views

urlpatterns = [
    path("rigs/<slug:slug>/tuning", views.Tuning.as_view()),
    path("rigs/<slug:slug>/tuning/identify", views.IdentifyRun.as_view()),
    path("rigs/<slug:slug>/tuning/accept", views.AcceptTuning.as_view()),
    path("rigs/<slug:slug>/tuning/trials", trying.TryTrials.as_view()),
    path("rigs/<slug:slug>/tuning/relay", relay_views.RelayTests.as_view()),
    path("rigs/<slug:slug>/tuning/relay/test", driven_views.DrivenTests.as_view()),
    path("rigs/<slug:slug>/tuning/relay/test/end", driven_views.DrivenEnd.as_view()),
    path("rigs/<slug:slug>/tuning/diagnose", complaint_views.Diagnose.as_view()),
    path("rigs/<slug:slug>/tuning/ledger", ledger_views.Ledger.as_view()),
    path("rigs/<slug:slug>/tuning/schools", trying.Schools.as_view()),
    path("rigs/<slug:slug>/tuning/try", trying.TryByHand.as_view()),
]
