"""The hourly heat balance: the compiled kernel and what prepares its arrays."""
