from django.contrib import admin
from django.urls import path, re_path

from .api import api
from .views import application, service_worker

urlpatterns = [
    path("admin/", admin.site.urls),
    path("api/", api.urls),
    path("sw.js", service_worker),
    re_path(r"^(?!api/|admin/|static/).*$", application),
]
