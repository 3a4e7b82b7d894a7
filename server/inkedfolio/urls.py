from django.contrib import admin
from django.urls import path, re_path

from api import college

from .api import api
from .views import application, maths_field, service_worker, shared_without_worker, staff_sign_in

urlpatterns = [
    path("admin/login/", staff_sign_in),
    path("admin/", admin.site.urls),
    path("api/", api.urls),
    path("sign-in/college", college.begin),
    path("sign-in/college/done", college.done),
    path("sw.js", service_worker),
    path("maths-field", maths_field),
    path("shared", shared_without_worker),
    re_path(r"^(?!api/|admin/|static/|metrics).*$", application),
]
handler404 = "plumbing.errors.no_such_address"  # all other addresses are the front end's
