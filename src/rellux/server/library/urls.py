from django.urls import path

from . import views

urlpatterns = [
    path("library", views.Library.as_view()),
    path("library/import", views.Import.as_view()),
    path("library/export.<str:form>", views.Export.as_view()),
    path("library/<int:key>", views.OwnDetail.as_view()),
]
