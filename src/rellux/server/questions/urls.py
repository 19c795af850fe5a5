from django.urls import path

from . import views

urlpatterns = [
    path("questions", views.Questions.as_view()),
    path("questions/<slug:key>", views.Ask.as_view()),
    path("rigs/<slug:slug>/questions", views.RigAnswers.as_view()),
    path("rigs/<slug:slug>/questions/<slug:key>", views.RigAnswer.as_view()),
]
