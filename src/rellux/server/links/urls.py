from django.urls import path

from . import views, write_views

urlpatterns = [
    path("rigs/<slug:slug>/link", views.LinkDetail.as_view()),
    path("rigs/<slug:slug>/link/arm", write_views.LinkArm.as_view()),
    path("rigs/<slug:slug>/link/write", write_views.LinkWrite.as_view()),
    path("rigs/<slug:slug>/link/safe-off", write_views.LinkSafeOff.as_view()),
]
