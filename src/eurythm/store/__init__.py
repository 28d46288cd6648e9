"""What is kept: SQLite through SQLAlchemy, migrations by Alembic, one line of revisions a project."""
