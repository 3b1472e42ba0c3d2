// Something to compile, so that the precompiled header of the tests has an owner.
