"""The mixed model against lme4 1.1.31 / lmerTest 3.1.3 / pbkrtest 0.5.2 (reference/mixed, /trials)
and NIST's one-way sets. Tolerances are those written beside the reference values."""

import numpy as np
import pytest

from helpers.reference import coded, column, load_json, load_rows, trial_data
from loam.core.plain_rank import judge
from loam.core.stats.fit import fit_mixed
from loam.core.stats.freedom import KenwardRoger, Satterthwaite

TERMS = {"panel:cell": "cell", "Residual": "residual"}
FITS = [
    ("small", "gloss20"),
    ("small", "haze"),
    ("small", "removed_um"),
    ("medium", "gloss20"),
    ("medium", "haze"),
    ("medium", "removed_um"),
    ("medium", "gloss20_rich"),
]


def expected_fit(dataset, fit_id):
    found = load_json("trials", dataset, "expected.json")
    return next(f for f in found["fits"] if f["id"] == fit_id), found["tolerance"]


def judged(dataset, fit_id):
    random = ["cell", "panel", "operator"]
    if fit_id.endswith("_rich"):
        random = ["cell", "panel:combination", "panel", "operator", "day"]
    gloss = fit_id.startswith("gloss")
    measurand = fit_id.removesuffix("_rich")
    return judge(trial_data(dataset, measurand, baseline=gloss, higher=gloss), random=random)


@pytest.mark.parametrize(("dataset", "fit_id"), FITS)
def test_trials_agree_with_lme4(dataset, fit_id):
    expected, tol = expected_fit(dataset, fit_id)
    fit = judged(dataset, fit_id).fit
    assert fit.n == expected["n"]
    assert fit.converged
    assert fit.singular == expected["singular"]
    assert set(fit.zero) == {z.split(".")[0] for z in expected["zero_components"]}
    assert fit.criterion == pytest.approx(expected["reml_criterion"], abs=tol["reml_criterion_abs"])
    for component in expected["variance_components"]:
        name = TERMS.get(component["group"], component["group"]).replace("combo", "combination")
        sd = np.sqrt(fit.variances[name])
        assert sd == pytest.approx(component["sd"], rel=tol["sd_rel"], abs=1e-12)
    rows = np.eye(fit.beta.size)
    got = Satterthwaite(fit).estimates(rows)
    for mean in expected["adjusted_means"]["values"]:
        i = fit.groups.index(mean["name"])
        assert abs(got.value[i] - mean["estimate"]) < tol["estimate_abs_over_se"] * mean["se"]
        assert got.se[i] == pytest.approx(mean["se"], rel=tol["se_rel"])
        assert got.df[i] == pytest.approx(mean["df_satterthwaite"], rel=tol["df_satterthwaite_rel"])


@pytest.mark.parametrize(("dataset", "fit_id"), FITS)
def test_contrasts_agree_with_lme4(dataset, fit_id):
    expected, tol = expected_fit(dataset, fit_id)
    fit = judged(dataset, fit_id).fit
    rows = np.zeros((len(expected["contrasts"]), fit.beta.size))
    for row, c in zip(rows, expected["contrasts"], strict=True):
        a, b = c["contrast"].split(" - ")
        row[fit.groups.index(f"{c['hardness']}:{a}")] = 1
        row[fit.groups.index(f"{c['hardness']}:{b}")] = -1
    methods = [(Satterthwaite(fit), "se", "df_satterthwaite", tol["df_satterthwaite_rel"])]
    if expected["contrasts"][0]["se_kr"] is not None:
        methods.append((KenwardRoger(fit), "se_kr", "df_kr", tol["df_kr_rel"]))
    for method, se, df, df_tol in methods:
        got = method.estimates(rows)
        want = {k: np.array([c[k] for c in expected["contrasts"]]) for k in ("estimate", se, df)}
        assert np.all(np.abs(got.value - want["estimate"]) < tol["estimate_abs_over_se"] * want[se])
        np.testing.assert_allclose(got.se, want[se], rtol=tol["se_rel"])
        np.testing.assert_allclose(got.df, want[df], rtol=df_tol)


@pytest.mark.parametrize(("dataset", "fit_id"), FITS)
def test_predictions_agree_with_lme4(dataset, fit_id):
    expected, _ = expected_fit(dataset, fit_id)
    fit = judged(dataset, fit_id).fit
    for group, block in expected["blups"].items():
        name = TERMS.get(group, group).replace("combo", "combination")
        if name in fit.zero:
            continue
        labels, values, sd = fit.predictions(name)
        got = {
            label.split(":")[-1] if name == "cell" else label: (v, s)
            for label, v, s in zip(labels, values, sd, strict=True)
        }
        for level in block["values"]:
            key = level["level"].split(":")[-1] if name == "cell" else level["level"]
            value, spread = got[key]
            assert value == pytest.approx(level["(Intercept)"], abs=2e-5)
            assert spread == pytest.approx(level["cond_sd (Intercept)"], rel=2e-4)


CLASSIC = [
    ("Dyestuff", "one_way", "Yield", {"Batch": "Batch"}, None),
    ("Pastes", "nested", "strength", {"sample": "sample", "batch": "batch"}, None),
    ("Penicillin", "crossed", "diameter", {"plate": "plate", "sample": "sample"}, None),
    ("sleepstudy", "random_intercept", "Reaction", {"Subject": "Subject"}, "Days"),
]


@pytest.mark.parametrize(("dataset", "fit_id", "y", "factors", "slope"), CLASSIC)
def test_classic_data_sets_agree_with_lme4(dataset, fit_id, y, factors, slope):
    rows = load_rows("mixed", dataset, "data.csv")
    found = load_json("mixed", dataset, "expected.json")
    expected = next(f for f in found["fits"] if f["id"] == fit_id)
    codes = {name: coded([r[c] for r in rows]) for name, c in factors.items()}
    fit = fit_mixed(
        column(rows, y),
        np.zeros(len(rows), dtype=np.intp),
        ["all"],
        {name: (c.codes, c.names) for name, c in codes.items()},
        {slope: column(rows, slope)} if slope else None,
    )
    assert fit.criterion == pytest.approx(expected["reml_criterion"], abs=1e-7)
    for component in expected["variance_components"]:
        name = TERMS.get(component["group"], component["group"])
        assert np.sqrt(fit.variances[name]) == pytest.approx(component["sd"], rel=1e-5)
    rows_at = np.eye(fit.beta.size)
    if slope:  # the reference's intercept stands at slope 0, ours at its mean
        rows_at[0, 1] = -fit.covariate_means[0]
    # pbkrtest refits at lme4's default optimum, which moves its SE in the fifth digit
    for method, se, df, tol, se_tol in (
        (Satterthwaite(fit), "se", "df_satterthwaite", 1e-3, 1e-6),
        (KenwardRoger(fit), "se_kenward_roger", "df_kenward_roger", 1e-2, 1e-4),
    ):
        got = method.estimates(rows_at)
        for i, want in enumerate(expected["fixed"]):
            assert got.value[i] == pytest.approx(want["estimate"], rel=1e-6)
            assert got.se[i] == pytest.approx(want[se], rel=se_tol)
            assert got.df[i] == pytest.approx(want[df], rel=tol)


@pytest.mark.parametrize("name", ["SiRstv", "SmLs01", "SmLs04"])
def test_nist_one_way_sums_of_squares(name):
    expected = load_json("mixed", "nist_oneway", "expected.json")["sets"][name]
    rows = load_rows("mixed", "nist_oneway", expected["file"])
    y, group = column(rows, "y"), coded([r["group"] for r in rows])
    fit = fit_mixed(y, group.codes, group.names, {}, None)
    tolerance = 10.0 ** -expected["digits_floor"]
    within = fit.variances["residual"] * (fit.n - len(group.names))
    assert within == pytest.approx(expected["ss_within"], rel=tolerance)
    size = np.bincount(group.codes)
    deviation = (fit.beta - y.mean())[: size.size]
    # beta carries the shift back on; its own rounding limits what can be checked here
    assert float(size @ deviation**2) == pytest.approx(
        expected["ss_between"], rel=max(tolerance, 1e-8)
    )
    assert fit.residual_sd == pytest.approx(expected["residual_sd"], rel=tolerance)
