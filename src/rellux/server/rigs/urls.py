from django.urls import path

from . import parts_views, purpose_views, transfer, views

urlpatterns = [
    path("fields", views.Fields.as_view()),
    path("kinds", views.Kinds.as_view()),
    path("supplies", views.Supplies.as_view()),
    path("rigs", views.Workshop.as_view()),
    path("rigs/import", transfer.Import.as_view()),
    path("rigs/bring-back", views.BringBack.as_view()),
    path("rigs/<slug:slug>", views.RigDetail.as_view()),
    path("rigs/<slug:slug>/double", views.Double.as_view()),
    path("rigs/<slug:slug>/archive", views.Archived.as_view()),
    path("rigs/<slug:slug>/repair", views.Repair.as_view()),
    path("rigs/<slug:slug>/purpose", purpose_views.PurposeDetail.as_view()),
    path("rigs/<slug:slug>/purpose/try", purpose_views.PurposeTrial.as_view()),
    path("rigs/<slug:slug>/parts", parts_views.PartsDetail.as_view()),
    path("rigs/<slug:slug>/parts/try", parts_views.PartsTrial.as_view()),
    path("rigs/<slug:slug>/parts/compare/<slug:piece>", parts_views.PartsCompared.as_view()),
    path("rigs/<slug:slug>/accept", views.AcceptDetail.as_view()),
    path("rigs/<slug:slug>/book", views.Book.as_view()),
    path("rigs/<slug:slug>/export", transfer.Export.as_view()),
]
