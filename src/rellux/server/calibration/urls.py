from django.urls import path

from . import bench_views, record_views, several_views, table_views, views, window_views

urlpatterns = [
    path("calibration.ics", record_views.CalibrationCalendar.as_view()),
    path("rigs/<slug:slug>/calibration", views.CalibrationDetail.as_view()),
    path("rigs/<slug:slug>/calibration.csv", table_views.CalibrationTable.as_view()),
    path("rigs/<slug:slug>/calibration/preview", views.CalibrationPreview.as_view()),
    path("rigs/<slug:slug>/calibration/reference", bench_views.StandardAsked.as_view()),
    path("rigs/<slug:slug>/calibration/settled", bench_views.SettledDetail.as_view()),
    path("rigs/<slug:slug>/calibration/input", bench_views.InputAloneAsked.as_view()),
    path("rigs/<slug:slug>/calibration/exchange", bench_views.ExchangeAsked.as_view()),
    path("rigs/<slug:slug>/calibration/several", several_views.SeveralDetail.as_view()),
    path("rigs/<slug:slug>/calibration/several/preview", several_views.SeveralPreview.as_view()),
    path("rigs/<slug:slug>/calibration/window", window_views.ProcessWindowDetail.as_view()),
    path("rigs/<slug:slug>/calibration/plan", record_views.CalibrationPlanDetail.as_view()),
]
