"""Addresses: the API, signing in and out, figures, and the one page for everything else."""

from django.contrib.auth.views import LogoutView
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path

from huvren.studio.api import api
from huvren.studio.metrics import metrics
from huvren.studio.middleware.problems import SAID, problem
from huvren.studio.page import page
from huvren.studio.sign_in import SignIn

handler500 = "huvren.studio.api.parts.problems.unforeseen"


def unknown(request: HttpRequest) -> HttpResponse:
    """What the API does not know."""
    return problem(404, *SAID[404])


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api(?:/.*)?$", unknown),
    path("metrics", metrics),
    path("sign-in", SignIn.as_view()),
    path("sign-out", LogoutView.as_view(next_page="/sign-in")),
    re_path(r"^(?!api/|static/).*$", page),
]
