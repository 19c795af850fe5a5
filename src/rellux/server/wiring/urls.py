from django.urls import path

from . import circuit_views, views

urlpatterns = [
    path("rigs/<slug:slug>/wiring", views.Wiring.as_view()),
    path("rigs/<slug:slug>/wiring/parts/<str:name>", views.FittedDetail.as_view()),
    path("rigs/<slug:slug>/wiring/solved", circuit_views.SolvedStates.as_view()),
    path("rigs/<slug:slug>/wiring/faults", circuit_views.SingleFaults.as_view()),
    path("rigs/<slug:slug>/wiring/meter", circuit_views.Meter.as_view()),
    path("rigs/<slug:slug>/wiring/schedule", circuit_views.Schedule.as_view()),
    path("rigs/<slug:slug>/wiring/schedule.csv", circuit_views.ScheduleCsv.as_view()),
    path("rigs/<slug:slug>/wiring/netlist.cir", circuit_views.Netlist.as_view()),
    path("rigs/<slug:slug>/wiring/paste", views.Paste.as_view()),
    path("rigs/<slug:slug>/wiring/wires", views.Wires.as_view()),
    path("rigs/<slug:slug>/wiring/wires/<int:number>", views.WireDetail.as_view()),
]
