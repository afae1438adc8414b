"""The stage Checks: findings, what mends them, what was decided, and the standards behind them."""
