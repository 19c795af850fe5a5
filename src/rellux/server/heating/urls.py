from django.urls import path

from . import views

urlpatterns = [path("heating/bank", views.ElementBank.as_view())]
