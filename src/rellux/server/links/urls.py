from django.urls import path

from . import views

urlpatterns = [
    path("rigs/<slug:slug>/link", views.LinkDetail.as_view()),
    path("rigs/<slug:slug>/link/arm", views.LinkArm.as_view()),
    path("rigs/<slug:slug>/link/write", views.LinkWrite.as_view()),
]
