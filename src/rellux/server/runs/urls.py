from django.urls import path

from . import export, stream, uploads, views

urlpatterns = [
    path("live", stream.live),
    path("uploads", uploads.Uploads.as_view()),
    path("uploads/beginning", uploads.Beginning.as_view()),
    path("uploads/<int:number>", uploads.Reread.as_view()),
    path("uploads/<int:number>/import", uploads.UploadDetail.as_view()),
    path("rigs/<slug:slug>/runs", views.Runs.as_view()),
    path("rigs/<slug:slug>/runs/import", uploads.ImportRun.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>", views.RunDetail.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/restore", views.RunRestore.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/stop", views.RunStop.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/notes", views.RunNotes.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/window", views.RunWindow.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/tracks", views.RunTracks.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/metrics", views.RunMetrics.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/csv", export.RunCsv.as_view()),
    path("rigs/<slug:slug>/runs/<int:number>/parquet", export.RunParquet.as_view()),
]
