"""The rules that parts hold, as frozen values: constraints that place them, levers and links that drive them."""
