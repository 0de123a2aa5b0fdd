"""Every address of the server; whatever is none of these is a page of the front end."""

from django.urls import include, path, re_path

from fieldtally.server.api import api
from fieldtally.server.reference import reference
from fieldtally.server.shell import page

urlpatterns = [
    path("api/reference", reference),
    path("api/", api.urls),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^(?!api/|_allauth/).*$", page),
]
