"""What this process measures of itself, and everything an operator watches in the Prometheus text format. Used by app."""

import asyncio
import hmac
import time
from collections.abc import Iterable, Iterator

from fastapi import Request
from fastapi.responses import Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Gauge, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric

from sorta.core.errors import NotAllowed, NotFound
from sorta.services import metrics

#: Seconds between two looks at how late the event loop is.
LOOK_EVERY = 0.05


class Meter:
    """Durations of requests and the lateness of the event loop, in a registry of this application's own."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.requests = Histogram(
            "sorta_request_seconds",
            "How long requests took, by route and status",
            ["method", "route", "status"],
            buckets=(0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30),
            registry=self.registry,
        )
        self.lag = Histogram(
            "sorta_event_loop_lag_seconds",
            "By how much the event loop came later than it was asked to",
            buckets=(0.001, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 5),
            registry=self.registry,
        )
        self.held = Histogram(
            "sorta_event_loop_held_seconds",
            "How much of that lateness may be this process's own work: what it used of a processor meanwhile, at most the lateness",
            buckets=(0.001, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 5),
            registry=self.registry,
        )
        self.worst_lag = Gauge(
            "sorta_event_loop_lag_worst_seconds", "The latest it came since it was last asked", registry=self.registry
        )

    async def watch_loop(self) -> None:
        """Measure until cancelled."""
        worst = 0.0
        self.worst_lag.set_function(lambda: worst)
        while True:
            begun, used = time.perf_counter(), time.process_time()
            await asyncio.sleep(LOOK_EVERY)
            lag = max(0.0, time.perf_counter() - begun - LOOK_EVERY)
            # Forgotten slowly, so that whoever asks twice a minute sees it.
            worst = max(lag, worst * 0.998)
            self.lag.observe(lag)
            self.held.observe(min(lag, time.process_time() - used))

    def write(self, gauges: Iterable[metrics.Gauge]) -> bytes:
        """All of it as text."""
        once = CollectorRegistry()
        once.register(_Collected(gauges))
        return generate_latest(self.registry) + generate_latest(once)


class _Collected:
    def __init__(self, gauges: Iterable[metrics.Gauge]) -> None:
        self._by_name: dict[str, list[metrics.Gauge]] = {}
        for gauge in gauges:
            self._by_name.setdefault(gauge.name, []).append(gauge)

    def collect(self) -> Iterator[Metric]:
        for name, those in self._by_name.items():
            family = GaugeMetricFamily(name, metrics.HELP[name], labels=list(those[0].labels))
            for one in those:
                family.add_metric(list(one.labels.values()), float(one.value))
            yield family


def check_token(request: Request, expected: str | None) -> None:
    """Raise NotFound where nobody may ask, NotAllowed for who does not say the token."""
    if expected is None:
        raise NotFound("There is nothing at this address.")
    said = request.headers.get("authorization", "")
    if not hmac.compare_digest(said.encode("utf-8", "replace"), f"Bearer {expected}".encode()):
        raise NotAllowed("These figures are for whoever has their token.")


def answer(meter: Meter, gauges: Iterable[metrics.Gauge]) -> Response:
    """The figures as an answer."""
    return Response(meter.write(gauges), headers={"Content-Type": CONTENT_TYPE_LATEST, "Cache-Control": "no-store"})
