"""Commissions, jobs and those who do them."""
