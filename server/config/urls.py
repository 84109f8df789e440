"""Routes: the API, and the one page of the web application for everything else."""

from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import ensure_csrf_cookie

from .api import api
from .settings import WEB_DIST


@never_cache
@ensure_csrf_cookie
def web_page(request: HttpRequest) -> HttpResponse:
    """Return the page of the web application; its own router shows the right sheet."""
    page = WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse("The web application is not built. Run make setup.", status=503)
    return HttpResponse(page.read_bytes(), content_type="text/html; charset=utf-8")


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|static/).*$", web_page),
]
