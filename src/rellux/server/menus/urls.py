from django.urls import path

from . import keyed_views, manual_views, rig_views, text_views, views

urlpatterns = [
    path("controllers", views.Controllers.as_view()),
    path("controllers/check", views.ControllerCheck.as_view()),
    path("controllers/pasted", views.ControllerPasted.as_view()),
    path("controllers/panel", views.ControllerPanel.as_view()),
    path("controllers/places", views.ControllerPlaces.as_view()),
    path("controllers/<slug:key>", views.Controller.as_view()),
    path("controllers/<slug:key>/photos", manual_views.Manual.as_view()),
    path("controllers/<slug:key>/photos/<int:number>", manual_views.ManualDetail.as_view()),
    path("rigs/<slug:slug>/controller", rig_views.RigControllerDetail.as_view()),
    path("rigs/<slug:slug>/controller/walk", rig_views.RigWalk.as_view()),
    path("rigs/<slug:slug>/controller/guarded", rig_views.RigGuarded.as_view()),
    path("rigs/<slug:slug>/controller/text", text_views.RigText.as_view()),
    path("rigs/<slug:slug>/controller/text/try", text_views.TriedText.as_view()),
    path("rigs/<slug:slug>/controller/text/read", text_views.TextRead.as_view()),
    path("rigs/<slug:slug>/controller/keyed", keyed_views.KeyedAsked.as_view()),
    path("rigs/<slug:slug>/controller/typed", keyed_views.TypedOn.as_view()),
    path("rigs/<slug:slug>/controller/found", rig_views.RigFound.as_view()),
    path("rigs/<slug:slug>/controller/reading", rig_views.RigReading.as_view()),
]
