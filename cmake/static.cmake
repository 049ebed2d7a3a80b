# For TRUESLATE_STATIC: libraries that can be linked so, or a word on what lacks.
set(CMAKE_FIND_LIBRARY_SUFFIXES .a)
set(wanted jansson z)
if(TRUESLATE_LINUX)
    list(APPEND wanted udev)
endif()
foreach(name ${wanted})
    find_library(STATIC_${name} ${name})
    if(NOT STATIC_${name})
        list(APPEND missing lib${name}.a)
    endif()
endforeach()
if(missing)
    list(JOIN missing ", " missing)
    message(FATAL_ERROR "TRUESLATE_STATIC needs ${missing}, and that is not here. "
        "Only the port for the host's devices needs libudev.a: "
        "-DTRUESLATE_LINUX=OFF does without.")
endif()
