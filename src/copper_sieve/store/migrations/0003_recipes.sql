-- Recipes: how maps are derived, saved by name, for every project.

create table recipe (
  id bigint generated always as identity primary key,
  name text not null unique check (name <> ''),
  definition json not null,
  updated_at timestamptz not null default now()
);

-- The pictures that a recipe mixes in.
create table recipe_source (
  recipe_id bigint not null references recipe on delete cascade,
  sha256 text not null references source,
  primary key (recipe_id, sha256)
);
