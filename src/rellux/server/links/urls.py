from django.urls import path

from . import instrument_views, listening, map_views, views, write_views

urlpatterns = [
    path("serial-ports", views.SerialPorts.as_view()),
    path("serial-ports/listen", listening.Listen.as_view()),
    path("logs/look", listening.LookAtLog.as_view()),
    path("register-maps", map_views.RegisterMaps.as_view()),
    path("register-maps/check", map_views.RegisterMapCheck.as_view()),
    path("register-maps/scan", map_views.RegisterScan.as_view()),
    path("register-maps/guess", map_views.RegisterGuess.as_view()),
    path("register-maps/<slug:key>", map_views.RegisterMapDetail.as_view()),
    path("register-maps/<slug:key>/file", map_views.RegisterMapFileView.as_view()),
    path("rigs/<slug:slug>/devices", instrument_views.Devices.as_view()),
    path("rigs/<slug:slug>/instruments", instrument_views.Instruments.as_view()),
    path("rigs/<slug:slug>/instruments/<int:number>", instrument_views.InstrumentDetail.as_view()),
    path("rigs/<slug:slug>/link", views.LinkDetail.as_view()),
    path("rigs/<slug:slug>/link/arm", write_views.LinkArm.as_view()),
    path("rigs/<slug:slug>/link/write", write_views.LinkWrite.as_view()),
    path("rigs/<slug:slug>/link/safe-off", write_views.LinkSafeOff.as_view()),
]
