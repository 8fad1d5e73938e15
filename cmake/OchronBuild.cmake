# Compiler settings shared by every target, and the rule that a folder is a library.
find_program(CCACHE_PROGRAM ccache)
if(CCACHE_PROGRAM)
  # Precompiled headers are found again by what is in them.
  set(CMAKE_CXX_COMPILER_LAUNCHER "${CMAKE_COMMAND}" -E env CCACHE_SLOPPINESS=pch_defines,time_macros "${CCACHE_PROGRAM}")
  add_compile_options($<$<AND:$<COMPILE_LANGUAGE:CXX>,$<CXX_COMPILER_ID:GNU>>:-fpch-preprocess>)
endif()
find_program(MOLD_PROGRAM mold)
if(MOLD_PROGRAM)
  add_link_options(-fuse-ld=mold)
endif()

# The libraries that compute on sound ask for more (ochron_core_library(... SOUND)).
set(CMAKE_CXX_FLAGS_RELEASE "-O2 -DNDEBUG")

add_library(ochron_flags INTERFACE)
target_compile_options(ochron_flags INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor -Woverloaded-virtual
                                              -Wimplicit-fallthrough -Werror -fno-math-errno
                                              $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>  # GCC 12 sees overlaps in std::string that are not there
                                             )
if(OCHRON_FUZZ)
  add_compile_options(-fsanitize=fuzzer-no-link)
endif()
if(OCHRON_SANITIZE)
  add_compile_options(-fsanitize=${OCHRON_SANITIZE} -fno-omit-frame-pointer -fno-sanitize-recover=all)
  add_link_options(-fsanitize=${OCHRON_SANITIZE})
  target_compile_definitions(ochron_flags INTERFACE OCHRON_SANITIZED)
  target_compile_options(ochron_flags INTERFACE $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>)  # GCC 12 is wrong about it here
endif()

# With CMAKE_UNITY_BUILD the files of one folder are compiled together, a few at a time: what is in the unnamed namespaces
# of a folder has names of its own there.
function(ochron_compile_by_folder target)
  get_target_property(sources ${target} SOURCES)
  list(FILTER sources INCLUDE REGEX "\\.cpp$")
  list(SORT sources)
  set(last "")
  set(count 0)
  foreach(source ${sources})
    cmake_path(GET source PARENT_PATH folder)
    if(NOT folder STREQUAL last)
      set(last "${folder}")
      set(count 0)
    endif()
    math(EXPR batch "${count} / 7")
    math(EXPR count "${count} + 1")
    string(MD5 group "${folder} ${batch}")
    set_source_files_properties("${source}" PROPERTIES UNITY_GROUP "${group}")
  endforeach()
  set_target_properties(${target} PROPERTIES UNITY_BUILD_MODE GROUP)
endfunction()

# ochron_core_library(NAME [SOUND] USES lower folders... LINKS outside libraries...)
# A core folder is a static library that may include only the folders it lists. SOUND: it loops over samples.
function(ochron_core_library name)
  cmake_parse_arguments(ARG "SOUND" "" "USES;LINKS" ${ARGN})
  file(GLOB sources CONFIGURE_DEPENDS "${CMAKE_CURRENT_SOURCE_DIR}/${name}/*.cpp" "${CMAKE_CURRENT_SOURCE_DIR}/${name}/*.h")
  string(REPLACE "/" "_" target "ochron_${name}")
  add_library(${target} STATIC ${sources})
  set_target_properties(${target} PROPERTIES LINKER_LANGUAGE CXX)
  target_include_directories(${target} PUBLIC "${CMAKE_SOURCE_DIR}/src/core")
  target_link_libraries(${target} PRIVATE ochron_flags)
  ochron_compile_by_folder(${target})
  if(ARG_SOUND)
    target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:-O3>)
  endif()
  foreach(lower ${ARG_USES})
    string(REPLACE "/" "_" library "ochron_${lower}")
    target_link_libraries(${target} PUBLIC ${library})
  endforeach()
  target_link_libraries(${target} PUBLIC ${ARG_LINKS})
endfunction()
