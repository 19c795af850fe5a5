from django.urls import path

from . import circuit_views, list_views, note_views, views

BASE = "rigs/<slug:slug>/wiring"
urlpatterns = [
    path("conductor-colours", views.ConductorColours.as_view()),
    path(BASE, views.Wiring.as_view()),
    path(f"{BASE}/usual", views.UsualCircuits.as_view()),
    path(f"{BASE}/undo", views.Undo.as_view()),
    path(f"{BASE}/redo", views.Redo.as_view()),
    path(f"{BASE}/list.json", views.ListFile.as_view()),
    path(f"{BASE}/import", views.ListImport.as_view()),
    path(f"{BASE}/parts", list_views.Parts.as_view()),
    path(f"{BASE}/parts/<path:name>/ratings", list_views.PartRatings.as_view()),
    path(f"{BASE}/parts/<path:name>", list_views.PartDetail.as_view()),
    path(f"{BASE}/wires", list_views.Wires.as_view()),
    path(f"{BASE}/wires/<int:number>", list_views.WireDetail.as_view()),
    path(f"{BASE}/built/<int:number>", list_views.Built.as_view()),
    path(f"{BASE}/paste", list_views.Paste.as_view()),
    path(f"{BASE}/accepted", note_views.AcceptedFindings.as_view()),
    path(f"{BASE}/accepted/<int:number>", note_views.AcceptedFinding.as_view()),
    path(f"{BASE}/photos", note_views.Photos.as_view()),
    path(f"{BASE}/photos/<int:number>", note_views.PhotoDetail.as_view()),
    path(f"{BASE}/solved", circuit_views.SolvedStates.as_view()),
    path(f"{BASE}/memory", circuit_views.CircuitMemory.as_view()),
    path(f"{BASE}/position", circuit_views.OwnPositions.as_view()),
    path(f"{BASE}/faults", circuit_views.SingleFaults.as_view()),
    path(f"{BASE}/meter", circuit_views.Meter.as_view()),
    path(f"{BASE}/schedule", circuit_views.Schedule.as_view()),
    path(f"{BASE}/schedule.csv", circuit_views.ScheduleCsv.as_view()),
    path(f"{BASE}/netlist.cir", circuit_views.Netlist.as_view()),
]
