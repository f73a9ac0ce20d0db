-- Tables and columns get the terms of the interface and the API.
alter table surrounding rename to environment;
alter table kept_up rename to auto_deliver;
alter table noticed_surface rename to capture_group;
alter table capture_group rename column shots to captures;
alter table on_purpose rename to ignored_finding;
alter table followed_folder rename to watched_folder;
alter table watched_folder rename column keeps to watching;
alter table watched_folder rename column looked_at to read_at;
alter table followed_file rename to watched_file;
alter table watched_file rename column gone to deleted;
alter table delivery_part rename column removes to delete_obsolete;
alter table delivery_part rename column anew to rewrite;
-- Stored findings are computed again with their new field names.
delete from checklist;
