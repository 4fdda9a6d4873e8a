"""Closed forms of waiting, against which the simulation is held.

Sources: A. K. Erlang (1917) for loss and delay; C. Palm (1957) for patience; A. Cobham (1954) and
O. Kella and U. Yechiali (1985) for priorities.
"""

from __future__ import annotations

from typing import NamedTuple

#: States of less weight than this, against the likeliest, are left out.
_TINY = 1e-14
_MOST_STATES = 1_000_000


class Expected(NamedTuple):
    """What is expected of a queue: shares of all who arrive, and their mean wait (s)."""

    waits: float
    abandons: float
    wait_s: float


def with_patience(servers: int, arrivals_s: float, service_s: float, patience_s: float | None) -> Expected:
    """M/M/n+M: Poisson arrivals, exponential service and patience (Erlang A).

    The chance of k in the system is that of a birth-and-death chain with births λ and deaths
    min(k, n) μ + max(0, k − n) θ. Who arrives sees it as it is; by Little's law the mean wait of
    all is E[queue] ÷ λ, and the share that hangs up θ E[queue] ÷ λ.

    Args:
        arrivals_s: a second. service_s: mean length. patience_s: mean; None waits for ever, which
            is Erlang C and needs a load below the number of servers.

    Raises:
        ValueError: the queue grows for ever.
    """
    death, leaving = 1 / service_s, 1 / patience_s if patience_s else 0.0
    if not leaving and arrivals_s * service_s >= servers:
        raise ValueError("Without hanging up, a queue at full load grows for ever.")
    weight = whole = 1.0
    waiting = queue = 0.0
    for state in range(1, _MOST_STATES):
        behind = max(0, state - servers)
        weight *= arrivals_s / (min(state, servers) * death + behind * leaving)
        whole += weight
        if state >= servers:
            waiting += weight
            queue += behind * weight
            if weight < _TINY * whole:
                break
    wait_s = queue / whole / arrivals_s
    return Expected(waiting / whole, leaving * wait_s, wait_s)


def loss(servers: int, load: float) -> float:
    """Erlang's loss formula: the share that finds all servers busy, by its recursion.

    Args:
        load: arrivals times mean service, in servers.
    """
    share = 1.0
    for number in range(1, servers + 1):
        share = load * share / (number + load * share)
    return share


def two_priorities(servers: int, high_s: float, low_s: float, service_s: float) -> tuple[float, float]:
    """Mean waits (s) of two classes with one exponential service; nobody is interrupted.

    W₁ = C ÷ (n μ (1 − σ₁)) and W₂ = W₁ ÷ (1 − σ₂), where C is Erlang's chance to wait, σ₁ the load
    of the first class and σ₂ that of both, in shares of all servers.

    Args:
        high_s, low_s: arrivals a second of those served first, and of the others.
    """
    chance = with_patience(servers, high_s + low_s, service_s, None).waits
    first = high_s * service_s / servers
    both = (high_s + low_s) * service_s / servers
    high = chance * service_s / (servers * (1 - first))
    return high, high / (1 - both)
