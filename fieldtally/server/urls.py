"""Every address of the server; whatever is none of these is a page of the front end."""

from allauth.socialaccount.providers.openid_connect.views import callback
from django.urls import include, path, re_path

from fieldtally.server.api import api
from fieldtally.server.reference import reference
from fieldtally.server.shell import page

urlpatterns = [
    path("api/reference", reference),
    path("api/", api.urls),
    path("_allauth/", include("allauth.headless.urls")),
    # Where people come back to who signed in elsewhere; nothing else of it is opened.
    path("signed-in/<str:provider_id>/login/callback/", callback, name="openid_connect_callback"),
    re_path(r"^(?!api/|_allauth/|signed-in/).*$", page),
]
