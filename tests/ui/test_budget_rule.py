"""How much of a coat may go is chosen in the window, for the workshop and for a panel."""

from loam.app.presenters.depth import budgets_at_hand


def test_the_rule_is_a_choice_and_the_budget_follows(open_window, wait_for):
    window = open_window(demo=True)
    before = [own.may_go for _, own in budgets_at_hand(window.session)]
    window.go("settings")
    wait_for(window)
    window.view.share.buttons["25"].click()
    after = [own.may_go for _, own in budgets_at_hand(window.session)]
    assert all(b <= a for a, b in zip(before, after, strict=True))
    assert after != before
    assert "25 % of it" in {own.why for _, own in budgets_at_hand(window.session)}
    window.view.share.buttons["60"].click()
    window.view.floor.buttons["25"].click()
    assert "25 µm must stay" in {own.why for _, own in budgets_at_hand(window.session)}
