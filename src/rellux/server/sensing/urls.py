from django.urls import path

from . import views

urlpatterns = [
    path("sensing/mistakes", views.Mistakes.as_view()),
    path("sensing/colours", views.Colours.as_view()),
    path("sensing/feed", views.Feed.as_view()),
    path("sensing/budget", views.ReadingBudget.as_view()),
    path("sensing/thermistor", views.Thermistor.as_view()),
]
