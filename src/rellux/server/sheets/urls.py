from django.urls import path

from . import views

urlpatterns = [
    path("rigs/<slug:slug>/parts.pdf", views.PartsSheetPdf.as_view()),
    path("rigs/<slug:slug>/wiring.pdf", views.WiringSheetPdf.as_view()),
    path("rigs/<slug:slug>/guarding.pdf", views.GuardingSheetPdf.as_view()),
    path("rigs/<slug:slug>/proving.pdf", views.ProvingSheetPdf.as_view()),
    path("rigs/<slug:slug>/handover", views.HandoverDetail.as_view()),
    path("rigs/<slug:slug>/handover.pdf", views.HandoverPdf.as_view()),
    path("rigs/<slug:slug>/calibration/label.pdf", views.CalibrationLabelPdf.as_view()),
    path("rigs/<slug:slug>/calibration/<int:number>.pdf", views.CalibrationPdf.as_view()),
    path("panel.pdf", views.PanelPdf.as_view()),
]
