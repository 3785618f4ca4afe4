// The page of the JSON addresses, drawn from what the program itself says of them. Nothing comes from outside.
SwaggerUIBundle({ url: "/api/openapi.json", dom_id: "#api", deepLinking: true, validatorUrl: null });
