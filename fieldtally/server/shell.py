"""The page that carries the front end, and what to say when a request is not trusted."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe


@never_cache
@ensure_csrf_cookie
@require_safe
def page(request: HttpRequest) -> HttpResponse | FileResponse:
    """The front end, which knows what to show at this address; a missing file is missing."""
    if "." in request.path.rsplit("/", 1)[-1]:
        return HttpResponse("There is no such file.", status=404, content_type="text/plain; charset=utf-8")
    answer = FileResponse((settings.WEB / "index.html").open("rb"), content_type="text/html; charset=utf-8")
    # Who publishes a trial gives its address to whom they like; nobody finds it by searching.
    answer["X-Robots-Tag"] = "noindex"
    return answer


def csrf_failure(request: HttpRequest, reason: str = "") -> JsonResponse:
    """Answer a request whose origin cannot be trusted."""
    says = "This page has been open too long or came from elsewhere. Reload it and do that again; nothing was stored."
    return JsonResponse({"problems": [{"at": "", "says": says}]}, status=403)
