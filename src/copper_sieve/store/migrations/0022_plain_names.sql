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

-- Rules of the checklist have new names.
update ignored_finding i set finding = concat(r.present, substr(i.finding, length(r.former) + 1))
from (values
  ('wrong_curve', 'transfer_curve'), ('swizzled', 'channel_order'),
  ('exchanged', 'swapped_channels'), ('green_turned', 'green_direction'),
  ('mixed', 'mixed_green'), ('inside_out', 'inverted_relief'), ('off_length', 'vector_length'),
  ('not_a_tile', 'not_tileable'), ('uv_no_uvs', 'uv_missing'), ('uv_thin_gaps', 'uv_gaps'),
  ('uv_hard_edges_joined', 'uv_hard_edges')
) as r(former, present)
where starts_with(i.finding, r.former || ':');
