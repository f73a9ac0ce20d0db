/** The files that can be taken in, as a file picker wants them. */
export const PICTURES = ".png,.jpg,.jpeg,.tif,.tiff,.tga,.webp,.exr";
