import fc from 'fast-check';

// without this no array gets longer than ten entries, whatever length it is allowed
fc.configureGlobal({ defaultSizeToMaxWhenMaxSpecified: true });
