-- The roles of the database, once: the owner migrates and restores, the application can neither, and a third can only
-- make a database of its own to look into a backup. psql -v owner=… -v app=… -v check=… -f roles.sql
CREATE ROLE nivelum_owner LOGIN PASSWORD :'owner';
CREATE ROLE nivelum_app LOGIN PASSWORD :'app';
CREATE ROLE nivelum_check LOGIN CREATEDB PASSWORD :'check';
ALTER ROLE nivelum_app SET timezone TO 'UTC';
CREATE DATABASE nivelum OWNER nivelum_owner ENCODING 'UTF8' TEMPLATE template0;
REVOKE ALL ON DATABASE nivelum FROM PUBLIC;
GRANT CONNECT ON DATABASE nivelum TO nivelum_app;
