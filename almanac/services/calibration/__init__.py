"""How well the forecasts have done."""
