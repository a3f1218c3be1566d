"""The ranking: who leads on each hardness, as sure as the readings are."""
