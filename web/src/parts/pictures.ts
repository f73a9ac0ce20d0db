/** The pictures that can be taken in, as a file picker wants them. */
export const PICTURES = ".png,.jpg,.jpeg,.tif,.tiff,.tga,.webp,.exr,.hdr,.dds,.jp2,.j2k";
/** The same with what holds several of them. */
export const TAKEN_IN = `${PICTURES},.zip,.glb,.gltf`;
