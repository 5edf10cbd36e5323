"""The web's face: routers and schemas, nothing but translation."""
