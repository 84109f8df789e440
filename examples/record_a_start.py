"""Record a start over HTTP and read the advice: python examples/record_a_start.py http://127.0.0.1:8000 TOKEN

Only the standard library: any program that can send JSON can do the same. The contract is at /api/openapi.json.
"""

import json
import sys
import urllib.request


def ask(url: str, token: str, body: dict | None = None) -> dict:
    data = None if body is None else json.dumps(body).encode()
    headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
    with urllib.request.urlopen(urllib.request.Request(url, data, headers)) as answer:
        return json.load(answer)


def main(server: str, token: str) -> None:
    api = server.rstrip("/") + "/api"
    engine = {
        "displacement_l": 2.2, "chambers": 4, "cam": "moderate", "compression_ratio": 10.2, "rev_limit_rpm": 6600,
        "torque_peak_rpm": 4300, "injectors": {"flow_cm3_min": 390},
    }  # fmt: skip
    job = ask(f"{api}/jobs", token, {"name": "Example", "engine": engine})
    # A simulated start; a log of your own is posted as a file to /jobs/{id}/logs.
    log = ask(f"{api}/jobs/{job['id']}/bench/starts", token, {"coolant_c": 8})
    trial = ask(f"{api}/jobs/{job['id']}/trials", token, {"log_id": log["id"]})
    print(f"Job {job['id']}, trial {trial['number']}: {trial['sentence']}")
    for advice in trial["advice"][:1]:
        print(f"  {advice['reason']}")


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
