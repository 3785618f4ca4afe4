// The passphrase was asked for in place of a page: a form that was on its way was not stored, so what was typed stays.
sessionStorage.removeItem("sent");
