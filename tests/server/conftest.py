"""A signed-in artist, a second one, and short ways to call the API."""

import json
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from tests.pictures import painted, png


class Api:
    """The API as the interface calls it."""

    def __init__(self, name: str) -> None:
        self.user = get_user_model().objects.create_user(name, password="a long enough word")
        self.client = Client()
        self.client.force_login(self.user)

    def get(self, path: str, status: int = 200, **query: Any) -> Any:
        response = self.client.get(f"/api{path}", query)
        assert response.status_code == status, response.content[:400]
        return response.json() if "json" in response.headers["Content-Type"] else response

    def post(self, path: str, body: Any = None, status: int = 200) -> Any:
        response = self.client.post(f"/api{path}", json.dumps(body or {}), content_type="application/json")
        assert response.status_code == status, response.content[:400]
        return response.json() if response.content and "json" in response.headers.get("Content-Type", "") else response

    def put(self, path: str, body: Any, status: int = 200) -> Any:
        response = self.client.put(f"/api{path}", json.dumps(body), content_type="application/json")
        assert response.status_code == status, response.content
        return response.json()

    def upload(self, data: bytes, name: str = "plate.png", status: int = 201) -> Any:
        response = self.client.post("/api/pictures", {"file": SimpleUploadedFile(name, data)})
        assert response.status_code == status, response.content[:400]
        return response.json()

    def bench(self, **recipe: Any) -> Any:
        """A palette from a painted picture."""
        picture = self.upload(png(painted()))
        return self.post("/palettes", {"picture": picture["id"], "recipe": {"colors": 12, **recipe}}, 201)

    def shelf(self, **query: Any) -> dict[str, list[Any]]:
        """The first page of each kind of card."""
        return {kind: self.get(f"/shelf/{kind}", limit=200, **query)["cards"] for kind in ("palettes", "ramps", "pictures")}

    def operate(self, palette: Any, status: int = 200, **operation: Any) -> Any:
        return self.post(f"/palettes/{palette['id']}/operations", {"base": palette["revision"], "operation": operation}, status)


@pytest.fixture
def api(db: None) -> Api:
    return Api("ada")


@pytest.fixture
def other(db: None) -> Api:
    return Api("ben")
