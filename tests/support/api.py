"""The HTTP interface of an application, where a class of tests has an educator and a learner of its own."""

from typing import Any

import httpx

from tests.support.application import PlacedTest


class ApiTest(PlacedTest):
    client: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.client = cls.application.client()
        cls.addClassCleanup(cls.client.close)

    def get(self, path: str) -> Any:
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def ended(self, job: Any) -> Any:
        """Return how a job has ended."""
        while job["state"] in ("waiting", "running"):
            job = self.get(f"/api/jobs/{job['id']}?seen={job['part']}")
        return job

    def assert_problem(self, answer: httpx.Response, status: int) -> Any:
        self.assertEqual(answer.status_code, status, answer.text)
        self.assertEqual(answer.headers["content-type"], "application/problem+json")
        problem = answer.json()
        self.assertEqual(problem["status"], status)
        self.assertTrue(problem["title"] and problem["detail"])
        return problem
