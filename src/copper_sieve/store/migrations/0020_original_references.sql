-- imported_at: when a file with these bytes was imported last. An original that nothing refers to
-- goes some time after that, so that one that is about to be used isn't deleted.
alter table source add column imported_at timestamptz not null default now();
update source set imported_at = created_at;
