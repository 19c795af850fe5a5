from django.urls import path

from . import views

urlpatterns = [
    path("rigs/<slug:slug>/wiring", views.Wiring.as_view()),
    path("rigs/<slug:slug>/wiring/parts/<str:name>", views.FittedDetail.as_view()),
    path("rigs/<slug:slug>/wiring/wires", views.Wires.as_view()),
    path("rigs/<slug:slug>/wiring/wires/<int:number>", views.WireDetail.as_view()),
]
