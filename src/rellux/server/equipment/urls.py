from django.urls import path

from . import views

urlpatterns = [
    path("equipment", views.All.as_view()),
    path("equipment/probes", views.Probes.as_view()),
    path("equipment/<int:key>", views.One.as_view()),
    path("equipment/<int:key>/fit", views.Fit.as_view()),
    path("equipment/<int:key>/take-out", views.TakeOut.as_view()),
    path("equipment/<int:key>/remarks", views.Remarks.as_view()),
    path("equipment/<int:key>/scrap", views.Scrap.as_view()),
    path("rigs/<slug:slug>/fitted", views.OfRig.as_view()),
]
