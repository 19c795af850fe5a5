from django.urls import path

from . import views

urlpatterns = [
    path("rigs/<slug:slug>/calibration", views.CalibrationDetail.as_view()),
    path("rigs/<slug:slug>/calibration/preview", views.CalibrationPreview.as_view()),
]
