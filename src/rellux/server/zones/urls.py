from django.urls import path

from . import views

urlpatterns = [
    path("chambers", views.Chambers.as_view()),
    path("chambers/<int:id>", views.ChamberDetail.as_view()),
    path("chambers/<int:id>/heat-up", views.ChamberHeatUp.as_view()),
]
