export { BooksPage } from "./BooksPage.tsx";
