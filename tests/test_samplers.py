"""The samplers against a model whose every answer is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.noise.levels import PREDICTIONS, Prediction, Schedule, executed_steps, spaced_levels
from waldrand.core.noise.noise import ELEMENT, LARGEST_SEED, noise, with_own_seeds
from waldrand.core.noise.samplers import ANCESTRAL, SAMPLERS, evaluations, sample
from waldrand.packs.closed_form import mixture_mean

MEANS = np.array([[-2.0, 0.5], [1.5, -1.0]])
VARIANCES, WEIGHTS = np.array([0.15, 0.4]), np.array([0.3, 0.7])


def mixture(schedule: Schedule):  # type: ignore[no-untyped-def]
    return lambda x, t: mixture_mean(x, schedule.alpha(t), schedule.sigma(t), MEANS, VARIANCES, WEIGHTS)


@pytest.mark.parametrize("sampler", SAMPLERS)
@pytest.mark.parametrize("prediction", PREDICTIONS)
def test_sampled_mixture_has_the_true_mean_covariance_and_weights(sampler, prediction):
    schedule = Schedule(prediction)
    x = np.random.default_rng(4).standard_normal((20000, 2))
    fresh = np.random.default_rng(5)
    # Ancestral ones forget their errors but need more steps to follow a sharp mixture.
    levels = spaced_levels(300 if sampler in ANCESTRAL else 80, 1.0)
    out = sample(mixture(schedule), x, levels, schedule, sampler, fresh=lambda _: fresh.standard_normal(x.shape))
    first = np.linalg.norm(out - MEANS[0], axis=1) < np.linalg.norm(out - MEANS[1], axis=1)
    assert first.mean() == pytest.approx(0.3, abs=0.02)
    mean = WEIGHTS @ MEANS
    assert out.mean(0) == pytest.approx(mean, abs=0.05)
    d = MEANS - mean
    cov = sum(w * (v * np.eye(2) + np.outer(a, a)) for w, v, a in zip(WEIGHTS, VARIANCES, d))
    assert np.cov(out.T) == pytest.approx(cov, abs=0.12)


def order_of(sampler: str) -> float:
    """The slope of log error against log steps, between levels 0.98 and 0.02."""
    schedule = Schedule("flow")
    x = np.random.default_rng(0).standard_normal((400, 2)) * schedule.sigma(0.98)

    def ends(n: int) -> np.ndarray:
        a, b = schedule.log_snr(0.98), schedule.log_snr(0.02)
        levels = 1 / (1 + np.exp(np.linspace(a, b, n + 1)))
        return sample(mixture(schedule), x, levels, schedule, sampler)  # type: ignore[arg-type]

    exact = ends(4096)
    errors = [np.abs(ends(n) - exact).mean() for n in (64, 128, 256)]
    return float(-np.polyfit(np.log([64, 128, 256]), np.log(errors), 1)[0])


def test_the_ancestral_sampler_of_second_order_comes_nearer_in_few_steps():
    schedule = Schedule()
    x = np.random.default_rng(4).standard_normal((20000, 2))
    narrow = np.array([0.02, 0.02])

    def denoise(x: np.ndarray, t: float) -> np.ndarray:
        return mixture_mean(x, schedule.alpha(t), schedule.sigma(t), MEANS, narrow, WEIGHTS)

    def error(sampler: str) -> float:
        fresh = np.random.default_rng(5)
        out = sample(denoise, x, spaced_levels(25, 1.0), schedule, sampler, fresh=lambda _: fresh.standard_normal(x.shape))  # type: ignore[arg-type]
        near = MEANS[np.linalg.norm(out[:, None] - MEANS, axis=2).argmin(1)]
        return abs(float((out - near).var()) - 0.02)

    assert error("ancestral-second") < 0.6 * error("ancestral")


def test_convergence_orders_are_one_and_two():
    assert order_of("first") == pytest.approx(1.0, abs=0.25)
    assert order_of("second") == pytest.approx(2.0, abs=0.35)
    assert order_of("heun") == pytest.approx(2.0, abs=0.35)


@pytest.mark.parametrize("sampler", SAMPLERS)
@given(st.integers(1, 12), st.floats(0.1, 1))
def test_evaluations_are_the_calls_made(sampler, steps, strength):
    schedule, calls = Schedule(), list[float]()

    def denoise(x: np.ndarray, t: float) -> np.ndarray:
        calls.append(t)
        return x

    levels = spaced_levels(steps, strength)
    sample(denoise, np.zeros(3, np.float32), levels, schedule, sampler, fresh=lambda _: np.zeros(3, np.float32))
    assert calls == evaluations(levels, schedule, sampler)


@pytest.mark.parametrize("sampler", ANCESTRAL)
def test_ancestral_noise_is_needed(sampler):
    with pytest.raises(ValueError, match="fresh noise"):
        sample(lambda x, t: x, np.zeros(2), np.array([0.5, 0.0]), Schedule(), sampler)


@given(st.sampled_from(PREDICTIONS), st.floats(0.01, 0.97))
def test_clean_undoes_noised_for_every_prediction(prediction: Prediction, t: float):
    s = Schedule(prediction)
    x0, e = np.array([0.3, -1.2], np.float32), np.array([0.7, 0.1], np.float32)
    x = s.noised(x0, e, t)
    answer = {"flow": e - x0, "v": s.alpha(t) * e - s.sigma(t) * x0, "eps": e}[prediction]
    assert s.clean(x, answer.astype(np.float32), t) == pytest.approx(x0, abs=2e-4)


@given(st.integers(1, 60), st.floats(0, 1), st.floats(0.5, 4))
def test_levels_fall_from_the_strength_to_zero_in_the_executed_steps(steps, strength, shift):
    levels = spaced_levels(steps, strength, shift)
    n = executed_steps(steps, strength)
    assert len(levels) == n + 1
    assert levels[-1] == 0
    if n:
        assert levels[0] == strength
        assert n == max(1, round(steps * strength))


@pytest.mark.parametrize(("steps", "strength"), [(0, 0.5), (10, -0.1), (10, 1.1)])
def test_levels_refuse_what_cannot_be(steps, strength):
    with pytest.raises(ValueError, match=r"step|strength"):
        spaced_levels(steps, strength)


def test_unknown_sampler_and_rising_levels_are_refused():
    with pytest.raises(ValueError, match="sampler"):
        sample(lambda x, t: x, np.zeros(2), np.array([1.0, 0.0]), Schedule(), "third")  # type: ignore[arg-type]
    with pytest.raises(ValueError, match="fall"):
        sample(lambda x, t: x, np.zeros(2), np.array([0.2, 0.4]), Schedule())


@given(st.integers(0, LARGEST_SEED), st.integers(0, 5))
def test_noise_repeats_by_seed_and_differs_by_purpose(seed, purpose):
    a = noise(seed, purpose, (2, 4, 4))
    assert (a == noise(seed, purpose, (2, 4, 4))).all()
    assert not (a == noise(seed, purpose + 1, (2, 4, 4))).all()


@given(st.floats(0, 1))
def test_mixed_noise_keeps_variance_one(edge):
    e = with_own_seeds(noise(1, 0, (8, 64, 64)), [(5, ELEMENT, np.full((64, 64), edge, np.float32))])
    assert e.var() == pytest.approx(1, abs=0.03)


def test_own_seed_changes_noise_only_inside_its_outline():
    m = np.zeros((8, 8), np.float32)
    m[2:5, 2:5] = 1
    base = noise(1, 0, (3, 8, 8))
    mixed = with_own_seeds(base, [(9, ELEMENT, m)])
    assert (mixed[:, m == 0] == base[:, m == 0]).all()
    assert (mixed[:, m == 1] != base[:, m == 1]).all()


def test_seed_out_of_range_is_refused():
    with pytest.raises(ValueError, match="seed"):
        noise(LARGEST_SEED + 1, 0, (1,))
