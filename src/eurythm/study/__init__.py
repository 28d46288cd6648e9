"""What if: levers, plans of cases, runners, what matters most."""
