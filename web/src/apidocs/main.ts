/** The API's own page, from the description that the server gives of itself; nothing is fetched from elsewhere. */
import SwaggerUI from "swagger-ui-dist/swagger-ui-es-bundle.js";
import "swagger-ui-dist/swagger-ui.css";

SwaggerUI({ dom_id: "#root", url: "/api/openapi.json", validatorUrl: "none", docExpansion: "none", deepLinking: true });
