"""Addresses: the API, signing in and out, and the one page for everything else."""

from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path, re_path

from huvren.studio.api import api
from huvren.studio.page import page

handler500 = "huvren.studio.api.problems.unforeseen"

urlpatterns = [
    path("api/", api.urls),
    path("sign-in", LoginView.as_view(template_name="studio/sign_in.html", redirect_authenticated_user=True)),
    path("sign-out", LogoutView.as_view(next_page="/sign-in")),
    re_path(r"^(?!api/|static/).*$", page),
]
