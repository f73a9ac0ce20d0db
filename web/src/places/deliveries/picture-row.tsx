// Pictures of the same texels side by side, without interpolation.
interface Props {
  pictures: { title: string; picture: string }[];
}

export function PictureRow({ pictures }: Props) {
  return (
    <div className="flex gap-3">
      {pictures.map(({ title, picture }) => (
        <figure key={title} className="min-w-0 flex-1">
          <img
            src={picture}
            alt={title}
            className="aspect-square w-full rounded-sm bg-ground object-contain [image-rendering:pixelated]"
          />
          <figcaption className="pt-1 text-list text-second">{title}</figcaption>
        </figure>
      ))}
    </div>
  );
}
