"""Projects, floors, revisions, runs and results in MariaDB."""
