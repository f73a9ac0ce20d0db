"""How much a surface reflects and how sharply: metallic, roughness, specular, both workflows."""
