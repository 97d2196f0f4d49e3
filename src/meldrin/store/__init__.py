"""The database: tables, queries, migrations, and the MariaDB server of this checkout."""
