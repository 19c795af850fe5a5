"""Every comparison of a rig as a table."""

import csv
import io

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.views import APIView

from rellux.server.api.endpoint import endpoint
from rellux.server.rigs.models import Rig

HEADINGS = (
    "at",
    "who",
    "reference",
    "sensor",
    "school",
    "pair",
    "display_c",
    "reference_c",
    "as_found_c",
    "as_left_c",
    "error_c",
    "uncertainty_c",
)


class CalibrationTable(APIView):
    @endpoint("calibrationTable", None)
    def get(self, request: Request, slug: str) -> HttpResponse:
        """One row for each pair, °C, oldest first."""
        rig = get_object_or_404(Rig, slug=slug)
        out = io.StringIO()
        table = csv.writer(out, lineterminator="\n")
        table.writerow(HEADINGS)
        for c in rig.calibrations.order_by("at", "pk"):
            after = (c.as_found_c, c.as_left_c, c.error_c, c.uncertainty_c)
            for i, pair in enumerate(c.pairs, 1):
                before = (c.at.isoformat(), c.who, c.reference, c.sensor, c.school, i)
                table.writerow([_safe(v) for v in (*before, pair["display_c"], pair["reference_c"], *after)])
        response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
        response["Content-Disposition"] = f'attachment; filename="{rig.slug}-comparisons.csv"'
        return response


def _safe(value: object) -> object:
    """A spreadsheet takes what begins with these for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in "=+-@\t\r" else value
