from django.urls import path

from . import views

urlpatterns = [
    path("rigs/<slug:slug>/setup", views.Setup.as_view()),
    path("rigs/<slug:slug>/setup/try", views.TriedSetup.as_view()),
]
